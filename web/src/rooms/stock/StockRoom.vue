<script setup lang="ts">
import { useStorage } from '@vueuse/core'
import { useWindowVirtualizer } from '@tanstack/vue-virtual'
import { computed, inject, nextTick, ref, watch, type Ref } from 'vue'
import { useRouter } from 'vue-router'
import { api, take, type StockRow } from '../../api/client'
import { useAct, useRows, useViews } from '../../api/queries'
import { useAxis } from '../../parts/axis'
import { many, percent, word, wordsOf } from '../../parts/words'
import DivideTins from './DivideTins.vue'
import SeasonGaps from './SeasonGaps.vue'
import StockLine from './StockLine.vue'
import { useStrips } from './strips'

/** So many rows are drawn at once; a larger stock is drawn as far as it is in sight. */
const ALL_AT_ONCE = 150
const router = useRouter()
const group = useStorage<string>('stock-order', 'season')
const words = ref('')
const dividing = ref(false)
/** On a phone the rarer tools wait behind a word, so that seed is in sight at once. */
const tools = ref(false)
const rows = useRows(group)
const views = useViews()
const act = useAct()
const newAsked = inject<Ref<number>>('newAsked')
watch(newAsked!, () => router.push('/stock/add'))
const { level, nowS, fromS, toS, years } = useAxis()
/** One object for all rows, so that a new strip draws one row and not all of them. */
const axis = computed(() => ({ fromS: fromS.value, toS: toS.value, nowS: nowS.value, level: level.value }))

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
    overscan: 6,
    scrollMargin: offset.value,
    getItemKey: (i: number) => items.value[i]?.key ?? i,
  })),
)
const drawn = computed(() =>
  large.value
    ? virtual.value
        .getVirtualItems()
        .map((v) => ({ item: items.value[v.index]!, index: v.index, top: v.start }))
    : items.value.map((item, index) => ({ item, index, top: 0 })),
)
const inView = computed(() => drawn.value.flatMap((d) => (d.item.row ? [d.item.row.lot_id] : [])))
const strips = useStrips(inView, computed(() => rows.dataUpdatedAt.value)) // prettier-ignore

const picked = ref(new Set<number>())
function pick(id: number) {
  const next = new Set(picked.value)
  if (!next.delete(id)) next.add(id)
  picked.value = next
}
const pickedQuery = computed(() => ({ lots: [...picked.value].join(',') }))
const codes = computed(() =>
  (list.value?.rows ?? []).filter((r) => picked.value.has(r.lot_id)).map((r) => r.code),
)
async function join() {
  const [into, ...others] = [...picked.value]
  const done = await act.runAsking(`Poured ${codes.value.slice(1).join(', ')} into ${codes.value[0]}`, (anyway) =>
    take(
      api.POST('/api/stock/lots/{lot_id}/merge', {
        params: { path: { lot_id: into! } },
        body: { other_ids: others, anyway },
      }),
    ),
  ) // prettier-ignore
  if (done) picked.value = new Set()
}
const chosenView = computed(
  () => views.data.value?.find((v) => v.group === group.value && v.words === words.value)?.view_id ?? 0,
)
function useView(e: Event) {
  const view = views.data.value?.find((v) => v.view_id === Number((e.target as HTMLSelectElement).value))
  if (!view) return
  group.value = view.group
  words.value = view.words
}
async function keepView() {
  const name = window.prompt('Name of this view', words.value || word('grouping', group.value))
  if (!name?.trim()) return
  const filing = window.confirm('Do your packets stand in this order? Then lists and labels follow it.')
  await act.run(`Kept the view ${name}`, () =>
    take(api.POST('/api/stock/views', { body: { name, group: group.value, words: words.value, filing } })),
  )
}
function step(e: KeyboardEvent, by: number) {
  const all = [...document.querySelectorAll<HTMLElement>('.lot')]
  all[all.indexOf(e.currentTarget as HTMLElement) + by]?.focus()
}
const num = (n: number) => (n === 1 ? 'One falls' : `${n} fall`)
</script>

<template>
  <section>
    <div class="lead">
      <h1>Stock</h1>
      <span v-if="list?.rows.length">
        <span class="soft">{{ many(list.rows.length, 'lot') }}, {{ many(list.kinds, 'kind') }}. </span>
        <RouterLink v-if="list.falling" to="/stock/triage" class="act"
          >{{ num(list.falling) }} below {{ percent(level) }} at the next sowing.</RouterLink
        >
        <span v-if="list.pending" class="soft small" role="status">
          {{ list.pending }} forecasts under way</span
        >
      </span>
      <span class="spring" />
      <RouterLink to="/stock/stocktake" class="btn quiet">Stocktake</RouterLink>
      <RouterLink to="/stock/triage" class="btn quiet">Triage</RouterLink>
      <RouterLink to="/stock/add" class="btn">Add seeds <kbd>n</kbd></RouterLink>
    </div>
    <template v-if="rows.isPending.value">
      <div v-for="i in 8" :key="i" class="skeleton" />
    </template>
    <div v-else-if="rows.isError.value" class="card">
      The list could not be read: {{ rows.error.value?.message }}
    </div>
    <div v-else-if="!list?.rows.length" class="card empty">
      <h2>No seed written down yet</h2>
      <p>
        Take the album or the first tin and type what the packets say. Ten packets are enough to see who fades
        first.
      </p>
      <RouterLink class="btn" to="/stock/add">Add the first packets</RouterLink>
    </div>
    <template v-else>
      <div class="row tools" :class="{ open: tools }">
        <label class="order small soft"
          >in order of
          <select v-model="group" class="plain" aria-label="Group by">
            <option v-for="(label, key) in wordsOf('grouping')" :key="key" :value="key">{{ label }}</option>
          </select></label
        >
        <input
          v-model="words"
          class="plain"
          type="search"
          aria-label="Show only"
          placeholder="only: kale, tin 2, swap"
        />
        <button class="btn link small phone" type="button" :aria-expanded="tools" @click="tools = !tools">
          {{ tools ? 'fewer tools' : 'views, tins, months' }}
        </button>
        <select
          v-if="views.data.value?.length"
          class="plain more"
          aria-label="Saved views"
          :value="chosenView"
          @change="useView"
        >
          <option :value="0">saved views</option>
          <option v-for="v in views.data.value" :key="v.view_id" :value="v.view_id">
            {{ v.name }}{{ v.filing ? ' (filing order)' : '' }}
          </option>
        </select>
        <button class="btn link small more" type="button" @click="keepView">keep this view</button>
        <button class="btn link small more" type="button" @click="dividing = true">divide among tins</button>
        <span class="spring more" />
        <SeasonGaps class="more" />
      </div>
      <div v-if="picked.size" class="row picked" role="toolbar" aria-label="With the chosen lots">
        <strong>{{ picked.size }} chosen:</strong>
        <span class="soft">{{ codes.slice(0, 8).join(', ') }}</span>
        <RouterLink class="btn quiet" :to="{ path: '/papers/labels', query: pickedQuery }">Labels</RouterLink>
        <RouterLink class="btn quiet" :to="{ path: '/papers/parcels', query: pickedQuery }"
          >Give away</RouterLink
        >
        <button v-if="picked.size > 1" class="btn quiet" type="button" @click="join">
          Pour into {{ codes[0] }}
        </button>
        <button class="btn link" type="button" @click="picked = new Set()">choose none</button>
      </div>
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
      <DivideTins :open="dividing" :group="group" @close="dividing = false" />
      <p v-if="!items.length" class="soft">Nothing here fits “{{ words }}”.</p>
      <div ref="host" :class="{ large }" :style="large ? { height: `${virtual.getTotalSize()}px` } : {}">
        <div
          v-for="d in drawn"
          :key="d.item.key"
          :data-index="d.index"
          :style="large ? { transform: `translateY(${d.top - offset}px)` } : {}"
          class="place"
        >
          <h2 v-if="d.item.heading" class="group">
            {{ d.item.heading }}
            <span class="small soft">{{ d.item.count }} {{ d.item.count === 1 ? 'lot' : 'lots' }}</span>
          </h2>
          <StockLine
            v-else-if="d.item.row"
            :row="d.item.row"
            :strip="strips.get(d.item.row.lot_id)"
            :axis="axis"
            :picked="picked.has(d.item.row.lot_id)"
            @pick="pick(d.item.row.lot_id)"
            @step="step"
          />
        </div>
      </div>
    </template>
  </section>
</template>

<style scoped>
.spring {
  flex: 1;
}
.tools {
  margin-bottom: 4px;
}
.tools {
  gap: 8px;
}
.tools input {
  width: 180px;
}
.tools select {
  max-width: 210px;
}
.order {
  display: flex;
  align-items: center;
  gap: 6px;
}
.picked {
  background: var(--act-wash);
  padding: 6px 10px;
  margin: 6px 0;
  position: sticky;
  top: 0;
  z-index: 6;
}
.axis {
  display: grid;
  grid-template-columns:
    22px 44px minmax(140px, 1.1fr) minmax(110px, 0.75fr) minmax(110px, 0.75fr) minmax(250px, 2.3fr)
    186px;
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
.empty {
  max-width: 560px;
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
  .tools input {
    flex: 1;
    min-width: 150px;
    min-height: 44px;
  }
}
</style>
