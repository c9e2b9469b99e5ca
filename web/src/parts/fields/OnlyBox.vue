<script setup lang="ts">
/** Words that a list is narrowed by. */
const words = defineModel<string>({ required: true })
defineProps<{ hears: string; such: string }>()
</script>

<template>
  <AInput v-model:value="words" type="search" allow-clear :aria-label="hears" :placeholder="such" />
</template>
