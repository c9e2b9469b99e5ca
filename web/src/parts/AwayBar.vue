<script setup lang="ts">
import { useQueryClient } from '@tanstack/vue-query'
import { onScopeDispose, ref, watch } from 'vue'
import { away } from '../api/client'

/** The larder does not answer: it is said once, asked again, and all is loaded anew when it is back. */
const client = useQueryClient()
const tries = ref(0)
let timer: ReturnType<typeof setTimeout> | undefined
async function again() {
  tries.value += 1
  try {
    await fetch('/api/words')
    away.value = false
    await client.invalidateQueries()
  } catch {
    timer = setTimeout(again, Math.min(15_000, 1500 * tries.value))
  }
}
watch(away, (now) => {
  clearTimeout(timer)
  tries.value = 0
  if (now) timer = setTimeout(again, 1500)
})
onScopeDispose(() => clearTimeout(timer))
</script>

<template>
  <AAlert
    v-if="away"
    class="away"
    type="warning"
    banner
    message="The larder does not answer. Is its server still running? It is asked again by itself."
  >
    <template #action><AButton size="small" @click="again">Ask now</AButton></template>
  </AAlert>
</template>

<style scoped>
.away {
  margin: 0 22px 6px;
}
</style>
