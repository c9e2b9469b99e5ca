<script lang="ts">
export type Option<T> = { value: T; label: string; group?: string }
/** Written out, as words that are their own code, or as code -> words. */
export type Choices<T> = readonly (Option<T> | (T & string))[] | Record<string, string>
</script>

<script setup lang="ts" generic="T extends string | number | boolean | null">
import { computed, useId } from 'vue'

/** One of several: searched by its words where there are many (or where they are still on their way);
 * `none` is the words for nothing chosen. */
const value = defineModel<T>({ required: true })
const own = useId()
const props = defineProps<{
  id?: string
  name?: string
  options: Choices<T>
  none?: string
  hears?: string
}>()
// nothing chosen is told as its field holds it: no text, or no value
const nothing = value.value === '' ? '' : null
// the select takes no null and no yes or no: each choice goes by its place
const flat = computed<Option<T>[]>(() => {
  const given: Option<T>[] = Array.isArray(props.options)
    ? props.options.map((o) => (typeof o === 'string' ? { value: o as T, label: o } : (o as Option<T>)))
    : Object.entries(props.options).map(([key, label]) => ({ value: key as T, label }))
  return props.none ? [{ value: nothing as T, label: props.none }, ...given] : given
})
const entries = computed(() => {
  const all = flat.value.map((o, i) => ({ value: i, label: o.label, group: o.group }))
  const groups = [...new Set(all.map((o) => o.group))]
  if (groups.length < 2) return all
  return groups.map((label) => ({ label: label ?? '', options: all.filter((o) => o.group === label) }))
})
const chosen = computed(() => {
  const at = flat.value.findIndex((o) => o.value === value.value)
  return at < 0 ? undefined : at
})
function set(at: unknown) {
  const found = flat.value[Number(at)]
  if (found) value.value = found.value
}
</script>

<template>
  <span class="choice-box">
    <label v-if="hears" class="visually-hidden" :for="own">{{ hears }}</label>
    <ASelect
      :id="id ?? own"
      class="choice"
      :value="chosen"
      :options="entries"
      :show-search="flat.length > 9 || flat.length < 2"
      option-filter-prop="label"
      :dropdown-match-select-width="false"
      :data-name="name"
      placeholder="choose"
      @change="set"
    />
  </span>
</template>

<style scoped>
.choice-box {
  display: inline-block;
  min-width: 110px;
  position: relative;
}
.choice {
  width: 100%;
}
</style>
