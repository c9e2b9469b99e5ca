<script setup lang="ts">
import { Segmented } from 'ant-design-vue'
import { useStorage } from '@vueuse/core'
import { computed, inject, ref, watch, type Ref } from 'vue'
import { useRouter } from 'vue-router'
import type { LotLine } from '../../api/client'
import { useLots } from '../../api/queries'
import { useAxis } from '../../parts/axis'
import FadeStrip from '../../parts/FadeStrip.vue'
import { iso, likely, percent, seedsWords } from '../../parts/words'
import AddSeeds from './AddSeeds.vue'

const GROUPS = ['Season', 'Kind', 'Place', 'Age', 'Urgency'] as const
const SEASONS: Record<string, string> = {
  cool: 'Cool season',
  warm: 'Warm season',
  herb: 'Herbs',
  flower: 'Flowers',
  cover: 'Cover and grain',
}
const URGENCY = ['Calm', 'In good time', 'Soon', 'Now']
const lots = useLots()
const router = useRouter()
const group = useStorage<(typeof GROUPS)[number]>('stock-group', 'Season')
const adding = ref(false)
const newAsked = inject<Ref<number>>('newAsked')
watch(newAsked!, () => (adding.value = true))

const { level, nowS, fromS, toS, years } = useAxis()
const falling = computed(
  () =>
    (lots.data.value ?? []).filter((l) => l.glance.at_sowing && l.glance.at_sowing.mid < level.value).length,
)
const kindCount = computed(() => new Set((lots.data.value ?? []).map((l) => l.kind)).size)

function groupOf(l: LotLine): [number, string] {
  switch (group.value) {
    case 'Season':
      return [Object.keys(SEASONS).indexOf(l.season), SEASONS[l.season] ?? l.season]
    case 'Kind':
      return [0, l.kind_name.charAt(0).toUpperCase() + l.kind_name.slice(1)]
    case 'Place':
      return [l.place ? 0 : 1, l.place || 'No place named']
    case 'Age': {
      const age = Math.floor(l.age_years)
      return [age, age < 1 ? 'Under a year' : age === 1 ? 'One year' : `${age} years`]
    }
    default:
      return [3 - l.urgency, URGENCY[l.urgency] ?? '']
  }
}
const groups = computed(() => {
  const out = new Map<string, { order: number; name: string; lots: LotLine[] }>()
  for (const l of lots.data.value ?? []) {
    const [order, name] = groupOf(l)
    const entry = out.get(name) ?? { order, name, lots: [] }
    entry.lots.push(l)
    out.set(name, entry)
  }
  const sorted = [...out.values()].sort((a, b) => a.order - b.order || a.name.localeCompare(b.name))
  for (const g of sorted)
    g.lots.sort(
      (a, b) =>
        a.kind_name.localeCompare(b.kind_name) || a.code.localeCompare(b.code, undefined, { numeric: true }),
    )
  return sorted
})
function step(e: KeyboardEvent, by: number) {
  const rows = [...document.querySelectorAll<HTMLElement>('.lot')]
  const i = rows.indexOf(e.currentTarget as HTMLElement)
  rows[i + by]?.focus()
}
const num = (n: number) => (n === 1 ? 'One falls' : `${n} fall`)
</script>

<template>
  <section>
    <div class="lead">
      <h1>Stock</h1>
      <span v-if="lots.data.value?.length">
        <span class="soft">{{ lots.data.value.length }} lots, {{ kindCount }} kinds. </span>
        <RouterLink v-if="falling" to="/tests" class="act"
          >{{ num(falling) }} below {{ percent(level) }} at the next sowing.</RouterLink
        >
      </span>
      <span class="spring" />
      <Segmented v-model:value="group" :options="[...GROUPS]" aria-label="Group by" />
      <button class="btn" type="button" @click="adding = true">Add seeds <kbd>n</kbd></button>
    </div>
    <template v-if="lots.isPending.value">
      <div v-for="i in 8" :key="i" class="skeleton" />
    </template>
    <div v-else-if="lots.isError.value" class="card">
      The list could not be read: {{ lots.error.value?.message }}
    </div>
    <div v-else-if="!lots.data.value?.length" class="card empty">
      <h2>No seed written down yet</h2>
      <p>
        Take the album or the first tin and type what the packets say. Ten packets are enough to see who fades
        first.
      </p>
      <button class="btn" type="button" @click="adding = true">Add the first packets</button>
    </div>
    <template v-else>
      <div class="axis small soft" aria-hidden="true">
        <span class="legend"
          >ink: germination, soft edge: likely range · ring: test · notch: next test · flag: last safe year ·
          hatched: a costly spell</span
        >
        <div class="years">
          <span v-for="y in years" :key="y">{{ y }}</span>
        </div>
        <span>germination now · next act</span>
      </div>
      <div v-for="g in groups" :key="g.name">
        <h2 class="group">
          {{ g.name }}
          <span class="small soft">{{ g.lots.length }} {{ g.lots.length === 1 ? 'lot' : 'lots' }}</span>
        </h2>
        <a
          v-for="l in g.lots"
          :key="l.lot_id"
          class="lot"
          :href="`/stock/${l.lot_id}`"
          :data-code="l.code"
          @click.prevent="router.push(`/stock/${l.lot_id}`)"
          @keydown.down.prevent="step($event, 1)"
          @keydown.up.prevent="step($event, -1)"
        >
          <span class="code">{{ l.code }}</span>
          <span class="what"
            ><span class="name">{{ l.variety }}</span>
            <span class="soft">{{ l.kind_name }}{{ l.hybrid ? ', hybrid' : '' }}</span></span
          >
          <span class="much"
            >{{ seedsWords(l) }}<span class="small soft"> · {{ l.origin }}</span></span
          >
          <span class="where soft">{{ l.place || 'no place named' }}</span>
          <FadeStrip
            class="strip"
            :glance="l.glance"
            :from-s="fromS"
            :to-s="toS"
            :now-s="nowS"
            :level="level"
          />
          <span class="now">
            <strong>{{ percent(l.glance.now.mid) }}</strong>, {{ likely(l.glance.now)
            }}<span v-if="l.glance.guess" class="soft small"> a guess</span>
            <br />
            <span
              class="small"
              :class="l.urgency >= 2 ? 'act' : 'soft'"
              :title="l.glance.good_until_s ? iso(l.glance.good_until_s) : undefined"
              >{{ l.next_act }}</span
            >
          </span>
        </a>
      </div>
    </template>
    <AddSeeds :open="adding" @close="adding = false" />
  </section>
</template>

<style scoped>
.spring {
  flex: 1;
}
.axis,
.lot {
  display: grid;
  grid-template-columns:
    44px minmax(150px, 1.1fr) minmax(110px, 0.75fr) minmax(110px, 0.75fr) minmax(260px, 2.3fr)
    186px;
  gap: 10px;
  align-items: center;
}
.axis {
  position: sticky;
  top: 0;
  background: var(--page);
  z-index: 5;
  padding: 4px 0;
}
.axis .legend {
  grid-column: 1 / 5;
  font-size: 12px;
  line-height: 1.3;
}
.years {
  display: grid;
  grid-template-columns: repeat(10, 1fr);
  grid-column: 5;
}
.group {
  margin: 12px 0 4px;
}
.lot {
  border-top: 1px solid var(--hair-soft);
  padding: 4px 0;
  text-decoration: none;
  line-height: 1.25;
}
.lot:hover {
  background: color-mix(in srgb, var(--paper) 60%, transparent);
}
.where,
.much {
  font-size: 14px;
}
.empty {
  max-width: 560px;
}
@media (max-width: 760px) {
  .axis {
    display: none;
  }
  .lot {
    grid-template-columns: 44px 1fr auto;
    gap: 2px 8px;
    padding: 10px 0;
  }
  .lot .strip {
    grid-column: 1 / 4;
    margin: 4px 0;
  }
  .lot .where {
    grid-column: 2;
  }
  .lot .much {
    grid-column: 3;
    grid-row: 1;
    text-align: right;
  }
  .much .small {
    display: none;
  }
  .lot .now {
    grid-column: 1 / 4;
  }
}
</style>
