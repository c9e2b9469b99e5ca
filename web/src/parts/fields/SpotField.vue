<script setup lang="ts">
import { computed } from 'vue'
import { useWriting } from '../writing'

/** A temperature in °C, typed and shown in the household's degrees. */
const celsius = defineModel<number | null>({ required: true })
withDefaults(defineProps<{ label?: string; name?: string; hears?: string }>(), {
  label: 'spot',
  name: 'temperature',
})
const { number, celsius: inCelsius, unit } = useWriting()
const shown = computed({
  get: () => (celsius.value === null ? null : Math.round(10 * number(celsius.value)) / 10),
  set: (typed) => (celsius.value = typed === null ? null : inCelsius(typed)),
})
</script>

<template>
  <NumberField v-model="shown" :label :name :unit :hears />
</template>
