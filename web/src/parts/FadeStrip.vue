<script setup lang="ts">
import { computed } from 'vue'
import type { Glance } from '../api/client'
import type { Axis } from './axis'
import { believed, day, many, percent, until } from './words'

const props = withDefaults(
  defineProps<{
    glance: Glance
    axis: Axis
    height?: number
    large?: boolean
  }>(),
  { height: 28 },
)

const W = 1000
const x = (s: number) => ((s - props.axis.fromS) / (props.axis.toS - props.axis.fromS)) * W
const y = (g: number) => props.height - 1 - (props.height - 3) * g
type Point = { x: number; low: number; mid: number; high: number }

const points = computed<Point[]>(() => {
  const s = props.glance.strip
  return s.mid.map((mid, i) => ({
    x: x(s.from_s + i * s.step_s),
    low: s.low[i] ?? mid,
    mid,
    high: s.high[i] ?? mid,
  }))
})

/** The strip in two pieces: full ink while the median is at or above the sowing level, then faded. */
const pieces = computed(() => {
  const all = points.value
  const cut = all.findIndex((p) => p.mid < props.axis.level)
  if (cut < 0) return [{ faded: false, at: all }]
  if (cut === 0) return [{ faded: true, at: all }]
  const a = all[cut - 1]!
  const b = all[cut]!
  const t = (a.mid - props.axis.level) / (a.mid - b.mid || 1)
  const mix = (p: number, q: number) => p + t * (q - p)
  const edge = { x: mix(a.x, b.x), low: mix(a.low, b.low), mid: props.axis.level, high: mix(a.high, b.high) }
  return [
    { faded: false, at: [...all.slice(0, cut), edge] },
    { faded: true, at: [edge, ...all.slice(cut)] },
  ]
})

function area(at: Point[], top: 'low' | 'mid' | 'high') {
  if (!at.length) return ''
  const line = at.map((p) => `${p.x.toFixed(1)},${y(p[top]).toFixed(2)}`)
  return `M${at[0]!.x.toFixed(1)},${props.height - 1}L${line.join('L')}L${at[at.length - 1]!.x.toFixed(1)},${props.height - 1}Z`
}

const share = (s: number) => `${(100 * (s - props.axis.fromS)) / (props.axis.toS - props.axis.fromS)}%`
const inside = (s: number) => s >= props.axis.fromS && s <= props.axis.toS
const safe = computed(() => {
  const last = props.glance.last_safe_year
  return last ? Date.UTC(last, 3, 1) / 1000 : null
})
const words = computed(() => {
  const g = props.glance
  const level = percent(props.axis.level)
  const told = g.good_beyond
    ? 'good for longer than can be said'
    : g.good_until_s
      ? g.now.mid < props.axis.level
        ? `below ${level} now`
        : `above ${level} to ${until(g)}`
      : ''
  const tests = g.tests.length ? `, ${many(g.tests.length, 'test')}` : ''
  return `Germination now ${believed(g.now)}; ${told}${tests}`
})
</script>

<template>
  <div class="strip" :class="{ large }" :style="{ height: `${height}px` }" role="img" :aria-label="words">
    <svg :viewBox="`0 0 ${W} ${height}`" preserveAspectRatio="none" aria-hidden="true">
      <template v-for="(piece, i) in pieces" :key="i">
        <path :d="area(piece.at, 'high')" class="ink high" :class="{ faded: piece.faded }" />
        <path :d="area(piece.at, 'mid')" class="ink mid" :class="{ faded: piece.faded }" />
        <path :d="area(piece.at, 'low')" class="ink low" :class="{ faded: piece.faded }" />
      </template>
      <line :x1="0" :x2="W" :y1="y(axis.level)" :y2="y(axis.level)" class="level" />
    </svg>
    <span
      v-for="e in glance.episodes"
      :key="e.from_s"
      class="spell"
      :style="{
        left: share(e.from_s),
        width: `max(5px, ${(100 * (e.to_s - e.from_s)) / (axis.toS - axis.fromS)}%)`,
      }"
      :title="`${day(e.from_s, true)}: took ${Math.round(100 * e.points)} points`"
    />
    <span v-if="inside(axis.nowS)" class="now" :style="{ left: share(axis.nowS) }" title="today" />
    <template v-for="t in glance.tests" :key="t.trial_id">
      <span
        v-if="inside(t.at_s)"
        class="test"
        :class="{ running: t.running }"
        :style="{
          left: share(t.at_s),
          top: `${t.share === null || t.share === undefined ? height / 2 : y(t.share)}px`,
        }"
        :title="
          t.running ? `test ${t.code} running` : `test ${t.code}, ${day(t.at_s, true)}: ${t.up} of ${t.n}`
        "
      />
    </template>
    <span
      v-if="glance.advice.wanted && glance.advice.due_s && inside(glance.advice.due_s)"
      class="notch"
      :style="{ left: share(glance.advice.due_s) }"
      :title="`next test by ${day(glance.advice.due_s, true)}`"
    />
    <span
      v-if="safe && inside(safe)"
      class="flag"
      :style="{ left: share(safe) }"
      :title="`last safe year to regrow: ${glance.last_safe_year}`"
    />
  </div>
</template>

<style scoped>
.strip {
  position: relative;
  width: 100%;
}
svg {
  position: absolute;
  inset: 0;
  width: 100%;
  height: 100%;
  display: block;
}
.ink {
  fill: var(--living);
}
.ink.faded {
  fill: var(--faded);
}
.low {
  opacity: 0.85;
}
.mid {
  opacity: 0.42;
}
.high {
  opacity: 0.18;
}
.level {
  stroke: var(--ink);
  stroke-opacity: 0.35;
  stroke-dasharray: 2 4;
  vector-effect: non-scaling-stroke;
}
.now {
  position: absolute;
  top: -2px;
  bottom: -2px;
  width: 0;
  border-left: 2px solid var(--act);
  transform: translateX(-1px);
}
.test {
  position: absolute;
  width: 9px;
  height: 9px;
  border: 1.7px solid var(--ink);
  background: var(--page);
  border-radius: 50%;
  transform: translate(-50%, -50%);
}
.test.running {
  border-style: dotted;
}
.large .test {
  width: 12px;
  height: 12px;
}
.notch {
  position: absolute;
  top: -2px;
  width: 0;
  height: 0;
  border: 5px solid transparent;
  border-top: 8px solid var(--ink);
  border-bottom: 0;
  transform: translateX(-50%);
}
.flag {
  position: absolute;
  top: 0;
  bottom: 0;
  border-left: 1.5px solid var(--act);
}
.flag::after {
  content: '';
  position: absolute;
  top: 0;
  left: 0;
  width: 10px;
  height: 8px;
  background: var(--act);
  clip-path: polygon(0 0, 100% 0, 70% 50%, 100% 100%, 0 100%);
}
.spell {
  position: absolute;
  top: 0;
  bottom: 0;
  background: repeating-linear-gradient(135deg, var(--warm) 0 2px, transparent 2px 4px);
}
</style>
