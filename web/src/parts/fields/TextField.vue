<script setup lang="ts">
import { computed, ref } from 'vue'
import { about, type About } from './about'

/** Words in one line. */
const text = defineModel<string>({ required: true })
const props = defineProps<
  About & { placeholder?: string; unit?: string; decimal?: boolean; hears?: string }
>()
const how = computed(() => ({
  name: props.name,
  placeholder: props.placeholder,
  suffix: props.unit,
  inputmode: props.decimal ? ('decimal' as const) : undefined,
}))
const input = ref<{ focus: () => void } | null>(null)
defineExpose({ focus: () => input.value?.focus() })
</script>

<template>
  <Field v-slot="{ id }" v-bind="about(props)">
    <AInput :id ref="input" v-model:value="text" v-bind="how" :aria-label="hears" autocomplete="off" />
  </Field>
</template>
