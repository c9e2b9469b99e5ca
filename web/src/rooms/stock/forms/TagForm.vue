<script setup lang="ts">
import { ref } from 'vue'
import { together } from '../acts'
import { called, ids, type Named } from './lots'
const props = defineProps<{ lots: Named[] }>()
const emit = defineEmits<{ done: [] }>()

const tags = ref('')
const off = ref(false)
const words = () => `${called(props.lots)}: ${off.value ? 'no longer ' : ''}tagged ${tags.value}`
const call = (anyway: boolean) =>
  together({ what: 'tag', lot_ids: ids(props.lots), tags: tags.value, off: off.value, anyway })
</script>

<template>
  <ActForm
    :title="`Tag ${called(lots)}`"
    submit="Tag it"
    :ready="tags.trim() !== ''"
    :words
    :call
    @done="emit('done')"
  >
    <TextField v-model="tags" label="tags" placeholder="early, for Tam" />
    <ACheckbox v-model:checked="off">take these tags off instead</ACheckbox>
  </ActForm>
</template>
