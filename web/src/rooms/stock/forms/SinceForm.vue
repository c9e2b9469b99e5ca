<script setup lang="ts">
import { ref } from 'vue'
import ActForm from '../../../parts/ActForm.vue'
import SinceField from '../../../parts/fields/SinceField.vue'
import { together } from '../acts'
import { called, ids, type Named } from './lots'

/** Since when packets lie where they lie, put right for many at once. */
const props = defineProps<{ lots: Named[] }>()
const emit = defineEmits<{ done: [] }>()
const since = ref('')
const words = () => `${called(props.lots)}: there ${since.value}`
const call = () => together({ what: 'since', lot_ids: ids(props.lots), since: since.value, anyway: false })
</script>

<template>
  <ActForm
    :title="`Since when ${lots.length === 1 ? 'does' : 'do'} ${called(lots)} lie there?`"
    submit="Say so"
    :ready="since.trim() !== ''"
    :words
    :call
    @done="emit('done')"
  >
    <SinceField v-model="since" now="only from then" placeholder="since it came" />
    <p class="small soft">
      “Only from then” is from when it was written down. What lay before in another place gives way to it;
      before the first place that was told seed lay in the usual one. Forecasts follow, and it can be undone.
    </p>
  </ActForm>
</template>
