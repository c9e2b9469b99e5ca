<script setup lang="ts">
import type { Dayjs } from 'dayjs'
import { computed } from 'vue'
import { useWriting } from '../writing'

/** A day of the calendar, in the household's order; kept as its ISO date, empty for none. */
const date = defineModel<string>({ required: true })
const props = defineProps<{
  label: string
  name?: string
  from?: string
  to?: string
  placeholder?: string
  shown?: string
}>()
const { dateFormat } = useWriting()
const iso = (day: Dayjs) => day.format('YYYY-MM-DD')
const off = (day: Dayjs) =>
  Boolean((props.from && iso(day) < props.from) || (props.to && iso(day) > props.to))
const value = computed({ get: () => date.value || undefined, set: (v) => (date.value = v ?? '') })
</script>

<template>
  <Field v-slot="{ id }" :label :name>
    <ADatePicker
      :id
      v-model:value="value"
      class="date"
      value-format="YYYY-MM-DD"
      :format="shown ?? dateFormat"
      :placeholder="placeholder ?? dateFormat.toLowerCase()"
      :disabled-date="off"
    />
  </Field>
</template>

<style scoped>
.date {
  width: 100%;
}
</style>
