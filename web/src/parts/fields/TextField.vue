<script setup lang="ts">
import { ref } from 'vue'

/** Words in one line. */
const text = defineModel<string>({ required: true })
defineProps<{
  label: string
  name?: string
  placeholder?: string
  wrong?: string
  help?: string
  unit?: string
  decimal?: boolean
  hears?: string
}>()
const input = ref<{ focus: () => void } | null>(null)
defineExpose({ focus: () => input.value?.focus() })
</script>

<template>
  <Field v-slot="{ id }" :label="label" :name="name" :wrong="wrong" :help="help">
    <AInput
      :id="id"
      ref="input"
      v-model:value="text"
      :name="name"
      :placeholder="placeholder"
      :suffix="unit"
      :inputmode="decimal ? 'decimal' : undefined"
      :aria-label="hears"
      autocomplete="off"
    />
  </Field>
</template>
