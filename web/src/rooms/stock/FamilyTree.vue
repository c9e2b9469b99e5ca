<script setup lang="ts">
import { computed } from 'vue'
import { useRouter } from 'vue-router'
import type { Schemas } from '../../api/client'
import { middle } from '../../parts/words'

/** Mothers, daughters and split-off packets across the years, left to right. */
const props = defineProps<{ family: Schemas['Family'] }>()
const router = useRouter()
const W = 150
const H = 46
const years = computed(() => [...new Set(props.family.relatives.map((r) => r.year))].sort())
const x = (year: number) => years.value.indexOf(year) * (W + 34) + 4
const y = (row: number) => row * (H + 12) + 22
const at = computed(
  () => new Map(props.family.relatives.map((r) => [r.lot_id, { x: x(r.year), y: y(r.row) }])),
)
const width = computed(() => years.value.length * (W + 34))
const height = computed(() => y(Math.max(0, ...props.family.relatives.map((r) => r.row))) + H + 6)
const lines = computed(() =>
  props.family.ties.flatMap((t) => {
    const a = at.value.get(t.from_lot)
    const b = at.value.get(t.to_lot)
    if (!a || !b) return []
    if (a.x === b.x) return [{ ...t, d: `M${a.x + 14},${a.y + H}V${b.y}` }]
    const m = b.x - 17
    return [{ ...t, d: `M${a.x + W},${a.y + H / 2}H${m}V${b.y + H / 2}H${b.x}` }]
  }),
)
const words = computed(() =>
  props.family.relatives
    .map((r) => `${r.code} ${r.variety}, ${r.year}${r.me ? ' (this one)' : ''}`)
    .join('; '),
)
</script>

<template>
  <div class="tree" role="group" :aria-label="`Family: ${words}`">
    <svg :width :height>
      <text v-for="year in years" :key="year" :x="x(year) + 2" y="14" class="year">{{ year }}</text>
      <path v-for="l in lines" :key="l.d" :d="l.d" :class="l.kind" />
      <g
        v-for="r in family.relatives"
        :key="r.lot_id"
        :transform="`translate(${x(r.year)},${y(r.row)})`"
        :class="{ me: r.me, gone: !r.here }"
        :role="r.here && !r.me ? 'link' : undefined"
        :tabindex="r.here && !r.me ? 0 : undefined"
        :aria-label="`${r.code} ${r.variety}, ${r.year}`"
        @click="r.here && router.push(`/stock/${r.lot_id}`)"
        @keydown.enter="r.here && router.push(`/stock/${r.lot_id}`)"
      >
        <rect :width="W" :height="H" rx="3" />
        <text x="8" y="18" class="code">{{ r.code }}</text>
        <text :x="W - 8" y="18" text-anchor="end" class="small">
          {{ r.germination ? middle(r.germination.mid, r.germination.step) : 'gone' }}
        </text>
        <text x="8" y="36" class="name">{{ r.variety.slice(0, 20) }}</text>
      </g>
    </svg>
  </div>
</template>

<style scoped>
.tree {
  overflow-x: auto;
}
rect {
  fill: var(--page);
  stroke: var(--hair);
}
.me rect {
  stroke: var(--act);
  stroke-width: 2;
}
.gone {
  opacity: 0.6;
}
g:not(.gone) {
  cursor: pointer;
}
text {
  fill: var(--ink);
  font: 14px var(--sans);
}
.year,
.small {
  fill: var(--soft);
  font-size: 13px;
}
.code {
  font-weight: 650;
}
.name {
  font: 600 14px var(--serif);
}
path {
  fill: none;
  stroke: var(--soft);
  stroke-width: 1.4;
}
path.split {
  stroke-dasharray: 3 3;
}
</style>
