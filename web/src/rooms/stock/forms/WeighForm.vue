<script setup lang="ts">
import { ref } from 'vue'
import ActForm from '../../../parts/ActForm.vue'
import { useWriting } from '../../../parts/writing'
import { weigh } from '../acts'
import { called, type Named } from './lots'

const props = defineProps<{ lot: Named }>()
const { massUnit, grams } = useWriting()
const count = ref<number | null>(100)
const mass = ref<number | null>(null)
const words = () => `Weighed ${count.value} of ${called([props.lot])}`
const call = () => weigh(props.lot.lot_id, count.value ?? 0, grams(mass.value ?? 0))
</script>

<template>
  <ActForm
    :title="`Weigh seeds of ${called([lot])}`"
    submit="Save"
    :ready="(mass ?? 0) > 0 && (count ?? 0) > 0"
    :words
    :call
  >
    <p class="soft small">
      From then on its weight is turned into seeds by its own figure; amounts weighed before follow.
    </p>
    <NumberField v-model="count" label="seeds on the scale" name="seeds" whole :min="10" />
    <NumberField v-model="mass" label="they weigh" name="mass" :unit="massUnit" :min="0" />
  </ActForm>
</template>
