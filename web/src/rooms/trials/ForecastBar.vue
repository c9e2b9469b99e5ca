<script setup lang="ts">
import { computed } from 'vue'
import type { Schemas } from '../../api/client'
import { believed, percent } from '../../parts/words'

/** What was thought before a test, what it counted and what is thought since, on one scale of 0 to 100 %. */
type Likely = Schemas['Likely']
const props = defineProps<{ before?: Likely | null; after?: Likely | null; share?: number; level?: number }>()
const W = 200
const x = (g: number) => 4 + g * (W - 8)
const told = computed(() =>
  [
    props.before && `before ${believed(props.before)}`,
    props.share !== undefined && `counted ${percent(props.share)}`,
    props.after && `now ${believed(props.after)}`,
  ]
    .filter(Boolean)
    .join('; '),
)
const bands = computed(() =>
  [
    props.before && { of: props.before, y: 4, kind: 'before' },
    props.after && { of: props.after, y: props.before ? 16 : 4, kind: 'after' },
  ].filter((b) => !!b),
)
const height = computed(() => 12 * bands.value.length + 8)
</script>

<template>
  <svg :viewBox="`0 0 ${W} ${height}`" role="img" :aria-label="told">
    <line :x1="x(0)" :x2="x(1)" :y1="height - 2" :y2="height - 2" class="scale" />
    <line v-if="level" :x1="x(level)" :x2="x(level)" y1="0" :y2="height" class="level" />
    <g v-for="b in bands" :key="b.kind" :class="b.kind">
      <rect :x="x(b.of.low)" :y="b.y" :width="x(b.of.high) - x(b.of.low)" height="8" />
      <line :x1="x(b.of.mid)" :x2="x(b.of.mid)" :y1="b.y - 1" :y2="b.y + 9" />
    </g>
    <circle v-if="share !== undefined" :cx="x(share)" :cy="8" r="4.5" class="ring" />
  </svg>
</template>

<style scoped>
svg {
  width: 100%;
  max-width: 240px;
  min-width: 120px;
  display: block;
}
.scale {
  stroke: var(--hair);
}
.level {
  stroke: var(--soft);
  stroke-dasharray: 2 3;
}
.before rect {
  fill: none;
  stroke: var(--soft);
}
.before line {
  stroke: var(--soft);
  stroke-width: 2;
}
.after rect {
  fill: var(--living);
  opacity: 0.35;
}
.after line {
  stroke: var(--living);
  stroke-width: 2.5;
}
.ring {
  fill: var(--page);
  stroke: var(--ink);
  stroke-width: 1.8;
}
</style>
