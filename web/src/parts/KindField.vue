<script setup lang="ts">
import { computed, useId } from 'vue'
import { useKinds } from '../api/queries'

const model = defineModel<string>({ required: true })
defineProps<{ label: string }>()
const kinds = useKinds()
const id = useId()
const names = computed(() => (kinds.data.value ?? []).map((k) => k.name))
</script>

<template>
  <span>
    <input v-model="model" class="plain" :list="id" :aria-label="label" placeholder="pea, kale, ?" />
    <datalist :id="id">
      <option v-for="name in names" :key="name" :value="name" />
    </datalist>
  </span>
</template>

<style scoped>
input {
  width: 100%;
}
</style>
