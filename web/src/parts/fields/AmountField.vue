<script setup lang="ts">
import { computed } from 'vue'
import { useWriting } from '../writing'

/** How much, as people say it: a number of seeds, a weight in the household's unit, a share, a pinch. */
const text = defineModel<string>({ required: true })
const props = defineProps<{
  label?: string
  name?: string
  placeholder?: string
  hears?: string
  help?: string
}>()
const { amounts } = useWriting()
const example = computed(() => props.placeholder ?? amounts.value)
</script>

<template>
  <TextField
    v-model="text"
    :label="label ?? 'how much'"
    :name="name ?? 'amount'"
    :placeholder="example"
    :hears
    :help
  />
</template>
