<script setup lang="ts" generic="T extends string | number | boolean | null">
import Choice, { type Choices } from './Choice.vue'

/** One of several, with its name above it. */
const value = defineModel<T>({ required: true })
defineProps<{
  label: string
  options: Choices<T>
  name?: string
  none?: string
  wrong?: string
  help?: string
  hears?: string
}>()
</script>

<template>
  <Field v-slot="{ id }" :label="label" :name="name" :wrong="wrong" :help="help">
    <Choice
      :id="id"
      v-model="value"
      class="whole"
      :options="options"
      :none="none"
      :name="name"
      :hears="hears"
    />
  </Field>
</template>

<style scoped>
.whole {
  width: 100%;
  min-width: 0;
}
</style>
