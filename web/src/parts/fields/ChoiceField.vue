<script setup lang="ts" generic="T extends string | number | boolean | null">
import { about, type About } from './about'
import Choice, { type Choices } from './Choice.vue'

/** One of several, with its name above it. */
const value = defineModel<T>({ required: true })
const props = defineProps<About & { options: Choices<T>; none?: string; hears?: string }>()
</script>

<template>
  <Field v-slot="{ id }" v-bind="about(props)">
    <Choice :id v-model="value" class="whole" :options :none :name :hears />
  </Field>
</template>

<style scoped>
.whole {
  width: 100%;
  min-width: 0;
}
</style>
