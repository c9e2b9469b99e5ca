<script setup lang="ts">
import { ref } from 'vue'

defineProps<{ lines: { text: string; exact?: string }[]; label?: string }>()
const open = ref(false)
const exact = ref(false)
</script>

<template>
  <span class="why">
    <AButton type="link" size="small" :aria-expanded="open" @click="open = !open">
      {{ label ?? 'why?' }}
    </AButton>
    <span v-if="open" class="panel">
      <span v-for="line in lines" :key="line.text" class="line">
        {{ line.text }}
        <span v-if="exact && line.exact" class="exact">{{ line.exact }}</span>
      </span>
      <AButton v-if="lines.some((l) => l.exact)" type="link" size="small" @click="exact = !exact">
        {{ exact ? 'plain words' : 'exact terms' }}
      </AButton>
    </span>
  </span>
</template>

<style scoped>
.panel {
  display: block;
  border-left: 3px solid var(--hair);
  padding: 4px 0 4px 10px;
  margin: 4px 0;
  max-width: 70ch;
}
.line {
  display: block;
  margin-bottom: 4px;
}
.exact {
  display: block;
  color: var(--soft);
  font-size: 13px;
}
</style>
