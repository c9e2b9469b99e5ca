<script setup lang="ts">
import { ref } from 'vue'
import { together } from '../acts'
import { MEDIA } from '../../trials/acts'
import { called, ids, type Named } from './lots'
const props = defineProps<{ lots: Named[]; spot?: number }>()
const emit = defineEmits<{ done: [] }>()

const n = ref<number | null>(null)
const medium = ref<string>('')
const spot = ref<number | null>(props.spot ?? null)
const on = ref('')
const HOW = { '': 'as each wants', ...MEDIA }
const words = () => `Started tests of ${called(props.lots)}`
const call = (anyway: boolean) =>
  together({
    what: 'test', lot_ids: ids(props.lots), n: n.value, medium: medium.value,
    temperature_c: spot.value, on: on.value, anyway,
  }) // prettier-ignore
</script>

<template>
  <ActForm
    :title="`Test ${called(lots)}`"
    submit="Sown: start"
    :ready="n === null || n >= 1"
    :words
    :call
    @done="emit('done')"
  >
    <NumberField
      v-model="n"
      label="seeds of each"
      name="seeds"
      whole
      :min="1"
      :max="400"
      placeholder="as many as each deserves"
    />
    <ChoiceField v-model="medium" label="on" :options="HOW" />
    <SpotField v-model="spot" label="spot (empty: as planned)" />
    <DayField v-model="on" label="sown" />
  </ActForm>
</template>
