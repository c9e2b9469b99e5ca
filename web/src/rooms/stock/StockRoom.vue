<script setup lang="ts">
import { useWindowVirtualizer } from '@tanstack/vue-virtual'
import { computed, nextTick, ref, watch } from 'vue'
import { useRouter } from 'vue-router'
import type { StockRow } from '../../api/client'
import { useRows, useViews } from '../../api/queries'
import { useNew, usePageKeys } from '../../parts/keys'
import { useAddress } from '../../parts/address'
import { useAxis } from '../../parts/axis'
import { useSheet } from '../../parts/sheets'
import { many, percent, wordsOf } from '../../parts/words'
import DivideTins from './DivideTins.vue'
import ViewForm from './forms/ViewForm.vue'
import ManyBar from './ManyBar.vue'
import { usePicks } from './picks'
import SeasonGaps from './SeasonGaps.vue'
import StockLine from './StockLine.vue'
import { useStrips } from './strips'
import RoomHead from '../../parts/RoomHead.vue'

/** So many rows are drawn at once; a larger stock is drawn as far as it is in sight. */
const ALL_AT_ONCE = 150
const router = useRouter()
const kept = localStorage.getItem('stock-order') ?? 'season'
const group = useAddress('by', kept)
watch(group, (now) => localStorage.setItem('stock-order', now))
const words = useAddress('only')
const sheet = useSheet()
/** On a phone the rarer tools wait behind a word, so that seed is in sight at once. */
const tools = ref(false)
const rows = useRows(group)
const views = useViews()
useNew('add seeds', () => router.push('/stock/add'))
usePageKeys([
  ['↓ ↑', 'the next packet, the one before'],
  ['x', 'choose the packet; with Shift all up to it'],
])
const { axis, level, years } = useAxis()
/** One object for all rows, so that a new strip draws one row and not all of them. */

type Item = { key: string; heading?: string; count?: number; row?: StockRow }
const list = computed(() => rows.data.value)
const items = computed<Item[]>(() => {
  const wanted = words.value.toLowerCase().split(/\s+/).filter(Boolean)
  const fits = (r: StockRow) => {
    if (!wanted.length) return true
    const text =
      `${r.code} ${r.variety} ${r.kind_name} ${r.place} ${r.tags} ${r.use} ${r.origin} ${r.state}`.toLowerCase()
    return wanted.every((w) => text.includes(w))
  }
  const out: Item[] = []
  for (const g of list.value?.groups ?? []) {
    const inside = g.rows.map((i) => list.value!.rows[i]!).filter(fits)
    if (!inside.length) continue
    out.push({ key: `h${g.name}`, heading: g.name, count: inside.length })
    for (const row of inside) out.push({ key: `${g.name}${row.lot_id}`, row })
  }
  return out
})
const host = ref<HTMLElement | null>(null)
const offset = ref(0)
watch([items, host], () => nextTick(() => (offset.value = host.value?.offsetTop ?? 0)))
const large = computed(() => items.value.length > ALL_AT_ONCE)
const phone = window.matchMedia('(max-width: 760px)')
const virtual = useWindowVirtualizer(
  computed(() => ({
    count: large.value ? items.value.length : 0,
    estimateSize: (i: number) => (items.value[i]?.heading ? 46 : phone.matches ? 132 : 52),
    overscan: 3,
    scrollMargin: offset.value,
    getItemKey: (i: number) => items.value[i]?.key ?? i,
  })),
)
/** As many as were ever drawn of a long list: a row that leaves at one end is used again at the other. */
let most = 1
const drawn = computed(() => {
  if (!large.value) return items.value.map((item, index) => ({ item, index, top: 0, key: item.key }))
  const seen = virtual.value.getVirtualItems()
  most = Math.max(most, seen.length)
  return seen.map((v) => ({ item: items.value[v.index]!, index: v.index, top: v.start, key: v.index % most }))
})
const inView = computed(() => drawn.value.flatMap((d) => (d.item.row ? [d.item.row.lot_id] : [])))
const strips = useStrips(inView, computed(() => rows.dataUpdatedAt.value)) // prettier-ignore

const picks = usePicks(() => items.value.flatMap((i) => (i.row ? [i.row] : [])))
const chosenView = computed(
  () => views.data.value?.find((v) => v.group === group.value && v.words === words.value)?.view_id ?? null,
)
const viewChoices = computed(() =>
  (views.data.value ?? []).map((v) => ({
    value: v.view_id,
    label: v.filing ? `${v.name} (filing order)` : v.name,
  })),
)
function useView(id: number | null) {
  const view = views.data.value?.find((v) => v.view_id === id)
  if (!view) return
  group.value = view.group
  words.value = view.words
}
function step(e: KeyboardEvent, by: number) {
  const all = [...document.querySelectorAll<HTMLElement>('.lot a.open')]
  const here = (e.currentTarget as HTMLElement).querySelector<HTMLElement>('a.open')
  all[all.indexOf(here!) + by]?.focus()
}
const num = (n: number) => (n === 1 ? 'One falls' : `${n} fall`)
</script>

<template>
  <section class="stock">
    <RoomHead title="Stock">
      <span v-if="list?.rows.length">
        <span class="soft">{{ many(list.rows.length, 'packet') }}, {{ many(list.kinds, 'kind') }}. </span>
        <RouterLink v-if="list.falling" to="/stock/triage" class="act"
          >{{ num(list.falling) }} below {{ percent(level) }} at the next sowing.</RouterLink
        >
        <span v-if="list.pending" class="soft small" role="status">
          {{ list.pending }} forecasts under way</span
        >
      </span>
      <span class="spring" />
      <RouterLink to="/stock/stocktake" class="btn plain">Stocktake</RouterLink>
      <RouterLink to="/stock/triage" class="btn plain">Triage</RouterLink>
      <RouterLink to="/stock/add" class="btn">Add seeds <kbd>n</kbd></RouterLink>
    </RoomHead>
    <RoomState :query="rows">
      <div v-if="!list?.rows.length" class="card empty">
        <h2>No seed written down yet</h2>
        <p>
          Take the album or the first tin and type what the packets say. Ten packets are enough to see who
          fades first.
        </p>
        <RouterLink class="btn" to="/stock/add">Add the first packets</RouterLink>
      </div>
      <template v-else>
        <div class="row tools" :class="{ open: tools }">
          <span class="order small soft"
            >in order of <Choice v-model="group" :options="wordsOf('grouping')" hears="Group by" name="group"
          /></span>
          <OnlyBox v-model="words" class="only" hears="Show only" such="only: kale, tin 2, swap" />
          <AButton class="phone" type="link" :aria-expanded="tools" @click="tools = !tools">
            {{ tools ? 'fewer tools' : 'views, tins, months' }}
          </AButton>
          <Choice
            v-if="viewChoices.length"
            class="more views"
            :model-value="chosenView"
            :options="viewChoices"
            none="saved views"
            hears="Saved views"
            name="views"
            @update:model-value="useView"
          />
          <AButton class="more" type="link" @click="sheet = 'view'">keep this view</AButton>
          <AButton class="more" type="link" @click="sheet = 'divide'">divide among tins</AButton>
          <span class="spring more" />
          <SeasonGaps class="more" />
        </div>
        <ManyBar
          :lots="picks.lots.value"
          :all="items.filter((i) => i.row).length"
          @none="picks.none"
          @all="picks.all"
        />
        <div class="axis small soft" aria-hidden="true">
          <span class="legend"
            >ink: germination, soft edge: likely range · ring: test · notch: next test · flag: last safe year
            · hatched: a costly spell</span
          >
          <div class="years">
            <span v-for="y in years" :key="y">{{ y }}</span>
          </div>
          <span>germination now · next act</span>
        </div>
        <DivideTins v-if="sheet === 'divide'" :group @close="sheet = ''" />
        <ViewForm v-if="sheet === 'view'" :group :words @close="sheet = ''" />
        <p v-if="!items.length" class="soft">Nothing here fits “{{ words }}”.</p>
        <div ref="host" :class="{ large }" :style="large ? { height: `${virtual.getTotalSize()}px` } : {}">
          <div
            v-for="d in drawn"
            :key="d.key"
            :data-index="d.index"
            :style="large ? { transform: `translateY(${d.top - offset}px)` } : {}"
            class="place"
          >
            <h2 v-if="d.item.heading" class="group">
              {{ d.item.heading }}
              <span class="small soft">{{ many(d.item.count ?? 0, 'packet') }}</span>
            </h2>
            <StockLine
              v-else-if="d.item.row"
              :row="d.item.row"
              :strip="strips.get(d.item.row.lot_id)"
              :axis
              :picked="picks.chosen.value.has(d.item.row.lot_id)"
              @pick="(range: boolean) => picks.pick(d.item.row!.lot_id, range)"
              @step="step"
            />
          </div>
        </div>
      </template>
    </RoomState>
  </section>
</template>

<style scoped>
.stock {
  /* mark, code, name, kind and origin, amount and place, strip, tests */
  --stock-columns: 22px 44px minmax(140px, 1.1fr) minmax(110px, 0.75fr) minmax(110px, 0.75fr)
    minmax(250px, 2.3fr) 186px;
}
.tools {
  margin-bottom: 4px;
}
.tools {
  gap: 8px;
}
.tools .only {
  width: 200px;
}
.order :deep(.choice),
.views {
  width: 170px;
}
.order {
  display: flex;
  align-items: center;
  gap: 6px;
}
.axis {
  display: grid;
  grid-template-columns: var(--stock-columns);
  gap: 10px;
  align-items: center;
  position: sticky;
  top: 0;
  background: var(--page);
  z-index: 5;
  padding: 4px 0;
}
.axis .legend {
  grid-column: 1 / 6;
  font-size: 12px;
  line-height: 1.3;
}
.years {
  display: grid;
  grid-template-columns: repeat(10, 1fr);
  grid-column: 6;
}
.large {
  position: relative;
}
.large .place {
  position: absolute;
  top: 0;
  left: 0;
  right: 0;
  contain: layout style;
}
/* every row of a large list is as high as the list reckons: nothing is measured while it scrolls */
.large :deep(.lot) {
  height: 52px;
  overflow: hidden;
}
.large .group {
  height: 46px;
}
.group {
  padding: 12px 0 4px;
}
.phone {
  display: none;
}
@media (max-width: 760px) {
  .phone {
    display: inline-block;
  }
  .tools:not(.open) .more {
    display: none;
  }
  .large :deep(.lot) {
    height: 132px;
  }
  .axis {
    display: none;
  }
  .tools .only {
    flex: 1;
    min-width: 150px;
  }
}
</style>
