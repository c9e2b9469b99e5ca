<script setup lang="ts">
import { useElementSize } from '@vueuse/core'
import { computed, ref } from 'vue'
import { useHome, useRibbon } from '../api/queries'
import { dateWords, monthNames, word, wordsOf } from './words'

const ribbon = useRibbon()
const box = ref<HTMLElement | null>(null)
const { width } = useElementSize(box)
const narrow = computed(() => width.value > 0 && width.value < 700)
const week = 7 * 86_400_000
const start = computed(() => Date.parse(ribbon.data.value?.start ?? ''))
const at = (date: string) => (Date.parse(date) - start.value) / week
const now = computed(() => (ribbon.data.value ? at(ribbon.data.value.today) : 0))
const WEEK_PX = 24 // a week is something to touch
/** On a phone the coming six weeks; else the year, or as much of it from now on as can be touched. */
const span = computed(() => {
  if (narrow.value) return { from: Math.floor(now.value), weeks: 6 }
  const weeks = width.value ? Math.min(52, Math.floor(width.value / WEEK_PX)) : 52
  return { from: Math.max(0, Math.min(Math.floor(now.value) - 4, 52 - weeks)), weeks }
})
const left = (w: number) => `${(100 * (w - span.value.from)) / span.value.weeks}%`
const shown = computed(() =>
  (ribbon.data.value?.marks ?? []).filter(
    (m) => m.week >= span.value.from && m.week < span.value.from + span.value.weeks,
  ),
)
const byWeek = computed(() => {
  const out = new Map<number, typeof shown.value>()
  for (const m of shown.value) out.set(m.week, [...(out.get(m.week) ?? []), m])
  return [...out.entries()]
})
const months = computed(() => {
  const out: { w: number; name: string }[] = []
  if (!ribbon.data.value) return out
  const d = new Date(start.value)
  for (let i = 0; i < 13; i++) {
    const first = new Date(Date.UTC(d.getUTCFullYear(), d.getUTCMonth() + i, 1))
    const w = (first.getTime() - start.value) / week
    if (w >= span.value.from && w < span.value.from + span.value.weeks)
      out.push({ w, name: dateWords(first, { month: 'short' }) })
  }
  return out
})
const frost = computed(() => {
  const r = ribbon.data.value
  if (!r) return []
  const out: { from: number; to: number; label: string }[] = []
  const last = r.last_frost ? at(r.last_frost) : null
  const first = r.first_frost ? at(r.first_frost) : null
  if (last !== null)
    out.push({
      from: first !== null && first < last ? first : 0,
      to: last + r.last_frost_sd_days / 7,
      label: `last frost ${words(r.last_frost!)} ± ${Math.round(r.last_frost_sd_days)} days`,
    })
  if (first !== null && (last === null || first > last))
    out.push({
      from: first - r.first_frost_sd_days / 7,
      to: 52,
      label: `first frost ${words(r.first_frost!)}`,
    })
  const end = span.value.from + span.value.weeks
  return out.filter((f) => f.from < end && f.to > span.value.from)
})
function words(date: string) {
  return dateWords(date, { day: 'numeric', month: 'short' })
}
const told = computed(() =>
  shown.value.map((m) => `${weekWords(m.week)}: ${word('ribbon', m.kind)} ${m.count}`).join('; '),
)
function weekWords(w: number) {
  return `week of ${dateWords(new Date(start.value + w * week), { day: 'numeric', month: 'short' })}`
}
const home = useHome()
const frostless = computed(() => {
  const h = home.data.value?.household
  if (!h?.frost_free) return 'no frost dates set: May stands in'
  const named = h.sow_months?.split(',').filter(Boolean) ?? []
  const shown = named.map((m) => monthNames()[Number(m) - 1]!.slice(0, 3)).join(', ')
  return shown ? `no frost here: sown in ${shown}` : 'no frost here and no month named: any day will do'
})
const open = ref<number | null>(null)
</script>

<template>
  <div ref="box" class="ribbon" role="region" aria-label="The household's year">
    <p class="visually-hidden">{{ told }}</p>
    <div class="band">
      <div
        v-for="f in frost"
        :key="f.label"
        class="frost"
        :style="{
          left: left(Math.max(f.from, span.from)),
          width: `${(100 * (Math.min(f.to, span.from + span.weeks) - Math.max(f.from, span.from))) / span.weeks}%`,
        }"
      >
        <span v-if="f.to <= span.from + span.weeks">{{ f.label }}</span>
      </div>
      <div v-for="m in months" :key="m.name + m.w" class="month" :style="{ left: left(m.w) }">
        <span>{{ m.name }}</span>
      </div>
      <button
        v-for="[w, marks] in byWeek"
        :key="w"
        class="week"
        type="button"
        :style="{ left: left(w), width: `${100 / span.weeks}%` }"
        :aria-label="`${weekWords(w)}: ${marks.map((m) => `${m.count} ${word('ribbon', m.kind)}`).join(', ')}`"
        :aria-expanded="open === w"
        @click="open = open === w ? null : w"
        @keydown.esc="open = null"
      >
        <template v-for="m in marks" :key="m.kind">
          <i v-for="n in Math.min(m.count, 3)" :key="n" :class="m.kind" />
        </template>
      </button>
      <div class="needle" :style="{ left: left(now) }" title="today" />
    </div>
    <div v-if="open !== null" class="told card" role="status">
      <strong>{{ weekWords(open) }}</strong>
      <p v-for="m in shown.filter((x) => x.week === open)" :key="m.kind">
        <i :class="m.kind" /> {{ word('ribbon', m.kind) }}: {{ m.words }}
      </p>
    </div>
    <div class="legend small soft">
      <span v-for="(name, kind) in wordsOf('ribbon')" :key="kind"><i :class="kind" /> {{ name }}</span>
      <RouterLink v-if="!ribbon.data.value?.last_frost && ribbon.data.value" to="/papers?tab=house">
        {{ frostless }}
      </RouterLink>
    </div>
  </div>
</template>

<style scoped>
.ribbon {
  padding: 2px 12px 6px;
  position: relative;
}
.band {
  position: relative;
  height: 58px;
  background: var(--page);
  border: 1px solid var(--hair);
  overflow: visible;
  margin-bottom: 20px;
}
.frost {
  position: absolute;
  bottom: 0;
  height: 15px;
  background: linear-gradient(90deg, transparent, var(--frost) 4%, var(--frost) 92%, transparent);
  font-size: 11px;
  color: var(--wet);
}
/* a short band at the year's edge has its words to the left of it */
.frost span {
  position: absolute;
  right: 8px;
  white-space: nowrap;
}
.month {
  position: absolute;
  bottom: -18px;
  border-left: 1px solid var(--shelf);
  height: 22px;
  font-size: 12px;
  color: var(--soft);
  padding-left: 4px;
  display: flex;
  align-items: flex-end;
}
.needle {
  position: absolute;
  top: -5px;
  bottom: 0;
  border-left: 2px solid var(--act);
  pointer-events: none;
}
.needle::before {
  content: '';
  position: absolute;
  top: -1px;
  left: -6px;
  border: 5px solid transparent;
  border-top: 7px solid var(--act);
  border-bottom: 0;
}
.week {
  position: absolute;
  top: 0;
  bottom: 15px;
  border: 0;
  background: none;
  padding: 0 0 2px;
  display: flex;
  flex-wrap: wrap-reverse;
  align-content: flex-start;
  justify-content: center;
  gap: 2px;
  cursor: pointer;
}
.week:hover {
  background: var(--act-wash);
}
i {
  display: inline-block;
  width: 7px;
  height: 7px;
}
i.test {
  border: 1.5px solid var(--ink);
  border-radius: 50%;
}
i.sow {
  background: var(--living);
}
i.order {
  border: 1.5px solid var(--act);
}
i.regrow {
  background: var(--act);
  clip-path: polygon(50% 0, 100% 100%, 0 100%);
}
.legend {
  display: flex;
  gap: 16px;
  position: absolute;
  right: 30px;
  top: 6px;
  pointer-events: none;
  font-size: 12px;
}
.told {
  position: absolute;
  z-index: 20;
  left: 22px;
  right: 22px;
  max-width: 720px;
  top: 66px;
}
.told p {
  margin: 4px 0 0;
}
@media (max-width: 760px) {
  .ribbon {
    padding: 2px 12px 4px;
  }
  .band {
    height: 44px;
  }
  .legend {
    position: static;
    flex-wrap: wrap;
    gap: 4px 12px;
    padding: 0;
  }
}
</style>
