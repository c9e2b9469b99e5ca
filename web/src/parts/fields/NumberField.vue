<script setup lang="ts">
import { computed, ref } from 'vue'
import { about, type About } from './about'

/** A number with its unit inside; the household's decimal sign. Empty is null. */
const value = defineModel<number | null>({ required: true })
const props = withDefaults(
  defineProps<
    About & {
      min?: number
      max?: number
      step?: number
      unit?: string
      whole?: boolean
      /** Plants or seeds: a whole number, 1 to 100,000, as the larder takes it. */
      count?: boolean
      placeholder?: string
      hears?: string
    }
  >(),
  { step: 1 },
)
const how = computed(() => {
  const { name, min, max, step, unit, whole, count, placeholder } = props
  return {
    name,
    step,
    unit,
    placeholder,
    ...(count ? { min: 1, max: 100_000, whole: true } : { min, max, whole }),
  }
})
const input = ref<{ focus: () => void } | null>(null)
defineExpose({ focus: () => input.value?.focus() })
</script>

<template>
  <Field v-slot="{ id }" v-bind="about(props)">
    <Num :id ref="input" v-model="value" class="number" v-bind="how" :aria-label="hears" />
  </Field>
</template>

<style scoped>
.number {
  width: 100%;
  min-width: 90px;
}
</style>
