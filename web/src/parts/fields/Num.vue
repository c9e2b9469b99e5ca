<script setup lang="ts">
import { InputNumber } from 'ant-design-vue'
import { computed, ref } from 'vue'
import { useWriting } from '../writing'

/** A number typed with the household's decimal sign; empty is null. */
const value = defineModel<number | null>({ required: true })
defineProps<{ id?: string; min?: number; max?: number; step?: number; whole?: boolean; unit?: string }>()
const { written, read } = useWriting()
const shown = computed({
  get: () => value.value ?? undefined,
  set: (v: string | number | undefined) => (value.value = v === undefined || v === null ? null : Number(v)),
})
const input = ref<{ focus: () => void } | null>(null)
defineExpose({ focus: () => input.value?.focus() })
</script>

<template>
  <InputNumber
    :id
    ref="input"
    v-model:value="shown"
    :min
    :max
    :step="step ?? 1"
    :precision="whole ? 0 : undefined"
    :addon-after="unit"
    :parser="read"
    :formatter="written"
    :inputmode="whole ? 'numeric' : 'decimal'"
  />
</template>
