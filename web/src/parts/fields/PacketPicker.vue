<script setup lang="ts">
import { computed, ref } from 'vue'
import type { StockRow } from '../../api/client'
import { useRows } from '../../api/queries'
import { seedsWords } from '../words'

/** One or several packets, found by code, name or kind. */
const ids = defineModel<number[]>({ required: true })
const props = defineProps<{ label: string; but?: number[]; first?: (row: StockRow) => boolean }>()
const rows = useRows(ref('season'))
const words = (r: StockRow) => `${r.code} ${r.variety}, ${r.kind_name}, ${r.origin}, ${seedsWords(r)}`
const options = computed(() => {
  const all = (rows.data.value?.rows ?? []).filter((r) => !props.but?.includes(r.lot_id))
  const near = props.first ? all.filter(props.first) : []
  return [...near, ...all.filter((r) => !near.includes(r))].map((r) => ({ value: r.lot_id, label: words(r) }))
})
const fits = (typed: string, option?: { label?: unknown }) =>
  typed
    .toLowerCase()
    .split(/\s+/)
    .every((w) => String(option?.label ?? '').toLowerCase().includes(w)) // prettier-ignore
</script>

<template>
  <Field v-slot="{ id }" :label>
    <ASelect
      :id
      v-model:value="ids"
      class="packets"
      mode="multiple"
      :options
      :filter-option="fits"
      placeholder="code, name, kind"
    />
  </Field>
</template>

<style scoped>
.packets {
  width: 100%;
}
</style>
