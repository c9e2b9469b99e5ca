<script setup lang="ts">
import { AutoComplete } from 'ant-design-vue'
import { computed } from 'vue'
import { useKinds } from '../api/queries'

const model = defineModel<string>({ required: true })
defineProps<{ label: string }>()
const kinds = useKinds()
const options = computed(() => (kinds.data.value ?? []).map((k) => ({ value: k.name, key: k.key })))
const filter = (text: string, option: unknown) =>
  String((option as { value: string }).value)
    .toLowerCase()
    .includes(text.toLowerCase())
</script>

<template>
  <AutoComplete
    v-model:value="model"
    :options="options"
    :filter-option="filter"
    :aria-label="label"
    placeholder="pea, kale, ?"
    style="width: 100%"
  />
</template>
