<script setup lang="ts">
import { ref } from 'vue'
import { useHome } from '../../api/queries'
import ActForm from '../../parts/ActForm.vue'
import { useWriting } from '../../parts/writing'
import { readDial } from './acts'

/** Log one dial: two fields and Enter; the rest behind one word. */
const props = defineProps<{ nodeId: number; name: string }>()
const { unit, numberOf } = useWriting()
const home = useHome()
const temperature = ref('')
const humidity = ref('')
const low = ref('')
const high = ref('')
const readOn = ref('')
const note = ref('')
const opened = ref(false)
const more = ref(false)
const dial = ref<{ focus: () => void } | null>(null)
defineExpose({ focus: () => dial.value?.focus() })

const words = () => {
  const said = [
    temperature.value && `${temperature.value} ${unit.value}`,
    humidity.value && `${humidity.value} %`,
  ]
  return `Read ${props.name}: ${said.filter(Boolean).join(', ')}`
}
const call = () =>
  readDial(props.nodeId, {
    temperature: numberOf(temperature.value),
    humidity_pct: numberOf(humidity.value),
    t_min: numberOf(low.value),
    t_max: numberOf(high.value),
    at_s: readOn.value ? Date.parse(`${readOn.value}T12:00`) / 1000 : null,
    opened: opened.value,
    note: note.value,
  })
function done() {
  temperature.value = humidity.value = low.value = high.value = readOn.value = note.value = ''
  opened.value = false
}
</script>

<template>
  <ActForm
    inline
    submit="Log the dial"
    :ready="temperature.trim() !== '' || humidity.trim() !== ''"
    :words
    :call
    again
    @done="done"
  >
    <TextField
      ref="dial"
      v-model="temperature"
      label="temperature"
      :unit
      decimal
      :hears="`temperature, ${unit}`"
    />
    <TextField v-model="humidity" label="humidity" unit="%" decimal hears="humidity, per cent" />
    <template v-if="more">
      <TextField v-model="low" label="lowest since reset" name="t_min" :unit decimal />
      <TextField v-model="high" label="highest since reset" name="t_max" :unit decimal />
      <DateField v-model="readOn" label="read on" name="day" :to="home.data.value?.today" />
      <TextField v-model="note" label="note" placeholder="smells musty" />
      <ACheckbox v-model:checked="opened">opened to read it</ACheckbox>
    </template>
    <template #beside>
      <AButton v-if="!more" type="link" size="small" @click="more = true">min, max, day</AButton>
    </template>
  </ActForm>
</template>
