<script setup lang="ts">
import type { Schemas } from '../../api/client'

defineProps<{ label: Schemas['Label']; lotId: number }>()
</script>

<template>
  <div>
    <h2>Label</h2>
    <RouterLink
      class="label"
      :to="{ path: '/papers/labels', query: { lots: String(lotId) } }"
      title="print it"
    >
      <span class="title">{{ label.name }}</span>
      <span class="code big">{{ label.code }}</span>
      <span>{{ label.kind }}</span>
      <template v-for="l in [label.origin, label.germination, label.use, label.sealed, label.source]" :key="l"
        ><span v-if="l" class="line">{{ l }}</span></template
      >
      <span v-if="label.caution" class="caution">{{ label.caution }}</span>
    </RouterLink>
  </div>
</template>

<style scoped>
.label {
  display: grid;
  grid-template-columns: 1fr auto;
  width: 270px;
  background: #fff;
  color: #111;
  border: 1px solid var(--hair);
  border-radius: 3px;
  padding: 8px 10px;
  text-decoration: none;
  font-size: 13px;
  line-height: 1.3;
}
.title {
  font: 700 18px var(--sans);
}
.big {
  font-size: 17px;
  text-align: right;
}
.line {
  grid-column: 1 / -1;
}
.caution {
  grid-column: 1 / -1;
  background: #111;
  color: #fff;
  font-weight: 700;
  font-size: 12px;
  padding: 1px 5px;
  margin-top: 3px;
}
</style>
