<script setup lang="ts">
import { computed } from 'vue'
import type { Running } from '../../api/client'

const props = defineProps<{ test: Running }>()
const W = 300
const H = 84
const last = computed(() => Math.max(props.test.days, props.test.day, 1))
const x = (d: number) => 4 + (d / last.value) * (W - 8)
const y = (n: number) => H - 4 - (n / props.test.n) * (H - 8)
const band = computed(() => {
  const up = props.test.expected_high.map((n, i) => `${x(i)},${y(n)}`)
  const down = props.test.expected_low.map((n, i) => `${x(i)},${y(n)}`).reverse()
  return `M${[...up, ...down].join('L')}Z`
})
const seen = computed(() => [
  [0, 0],
  ...props.test.counted_days.map((d, i) => [d, props.test.counted_up[i] ?? 0]),
])
const line = computed(() => seen.value.map(([d, n]) => `${x(d ?? 0)},${y(n ?? 0)}`).join(' '))
const told = computed(
  () => `${props.test.up} of ${props.test.n} up on day ${Math.floor(props.test.day)} of ${props.test.days}`,
)
</script>

<template>
  <figure>
    <svg :viewBox="`0 0 ${W} ${H}`" role="img" :aria-label="told">
      <path :d="band" class="band" />
      <polyline :points="line" class="line" />
      <circle
        v-for="([d, n], i) in seen.slice(1)"
        :key="i"
        :cx="x(d ?? 0)"
        :cy="y(n ?? 0)"
        r="4"
        class="ring"
      />
      <line :x1="x(test.day)" :x2="x(test.day)" y1="2" :y2="H - 2" class="now" />
      <line :x1="x(test.days)" :x2="x(test.days)" y1="2" :y2="H - 2" class="due" />
    </svg>
  </figure>
</template>

<style scoped>
figure {
  margin: 0;
}
svg {
  width: 100%;
  max-width: 340px;
  border: 1px solid var(--hair-soft);
}
.band {
  fill: var(--living);
  opacity: 0.22;
}
.line {
  fill: none;
  stroke: var(--living);
  stroke-width: 2;
}
.ring {
  fill: var(--page);
  stroke: var(--ink);
  stroke-width: 1.6;
}
.now {
  stroke: var(--act);
  stroke-width: 1.5;
}
.due {
  stroke: var(--soft);
  stroke-dasharray: 3 3;
}
</style>
