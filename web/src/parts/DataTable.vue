<script lang="ts">
export type Column<R> = {
  key: string
  title?: string
  /** What it is put in order by; without it the heading is only read. */
  by?: (row: R) => string | number | null | undefined
  width?: number | string
  /** Its name on a phone, where the headings are gone; empty for what needs none. */
  small?: string
}
</script>

<script setup lang="ts" generic="R">
import { computed } from 'vue'

/** Rows that are compared: in order by a touch on a heading; one under another on a phone. */
const props = defineProps<{
  rows: readonly R[]
  columns: Column<R>[]
  /** What tells a row from the others: a field of it, or what is made of it. */
  by: (keyof R & string) | ((row: R) => string | number)
  height?: string
  rowClass?: (row: R) => string
  label?: string
  dataOf?: (row: R) => Record<string, string>
}>()
const order = (by: NonNullable<Column<R>['by']>) => (a: R, b: R) => {
  const [x, y] = [by(a) ?? '', by(b) ?? '']
  return typeof x === 'number' && typeof y === 'number' ? x - y : String(x).localeCompare(String(y))
}
const shown = computed(() =>
  props.columns.map((c) => ({
    key: c.key,
    title: c.title ?? '',
    width: c.width,
    sorter: c.by ? order(c.by) : undefined,
    customCell: () => ({ 'data-label': c.small ?? '' }),
  })),
)
const attributes = (row: R) => props.dataOf?.(row) ?? {}
const headed = computed(() => props.columns.some((c) => c.title))
</script>

<template>
  <ATable
    class="table"
    size="small"
    :data-source="rows as R[]"
    :columns="shown as never[]"
    :row-key="by as never"
    :row-class-name="(r: R) => rowClass?.(r) ?? ''"
    :custom-row="(r: R) => attributes(r)"
    :pagination="false"
    :show-header="headed"
    :show-sorter-tooltip="false"
    :scroll="height ? { y: height } : undefined"
    :aria-label="label"
  >
    <template #headerCell="{ column }">
      <slot name="head" :column="String(column.key)">
        <template v-if="column.title">{{ column.title }}</template>
        <span v-else class="visually-hidden">to do</span>
      </slot>
    </template>
    <template #bodyCell="{ column, record }">
      <!-- one element, or the table drops the spaces between those of the slot -->
      <div><slot :name="String(column.key)" :row="record as R" /></div>
    </template>
    <template #emptyText><slot name="empty">Nothing here.</slot></template>
  </ATable>
</template>
