<script setup lang="ts">
/** The head of a room or page: the way back, its name, what is said of it, its acts. */
defineProps<{ title?: string; back?: string; to?: string }>()
</script>

<template>
  <RouterLink v-if="back && to" :to class="small">← {{ back }}</RouterLink>
  <div class="lead">
    <h1>
      <slot name="title">{{ title }}</slot>
    </h1>
    <slot />
  </div>
</template>
