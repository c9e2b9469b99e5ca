<script setup lang="ts">
import { ref } from 'vue'

/** A number with its unit inside; the household's decimal sign. Empty is null. */
const value = defineModel<number | null>({ required: true })
withDefaults(
  defineProps<{
    label: string
    name?: string
    min?: number
    max?: number
    step?: number
    unit?: string
    whole?: boolean
    /** Plants or seeds: a whole number, 1 to 100,000, as the larder takes it. */
    count?: boolean
    placeholder?: string
    wrong?: string
    help?: string
    hears?: string
  }>(),
  { step: 1 },
)
const input = ref<{ focus: () => void } | null>(null)
defineExpose({ focus: () => input.value?.focus() })
</script>

<template>
  <Field v-slot="{ id }" :label="label" :name="name" :wrong="wrong" :help="help">
    <Num
      :id="id"
      ref="input"
      v-model="value"
      class="number"
      :name="name"
      :min="count ? 1 : min"
      :max="count ? 100000 : max"
      :step="step"
      :whole="whole || count"
      :unit="unit"
      :placeholder="placeholder"
      :aria-label="hears"
    />
  </Field>
</template>

<style scoped>
.number {
  width: 100%;
  min-width: 90px;
}
</style>
