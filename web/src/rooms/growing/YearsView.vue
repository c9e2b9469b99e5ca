<script setup lang="ts">
import { Modal } from 'ant-design-vue'
import { computed, ref } from 'vue'
import type { Schemas } from '../../api/client'
import { lastProblem, useAct } from '../../api/queries'
import { many, percent } from '../../parts/words'
import { useWriting } from '../../parts/writing'
import YearLimits from './YearLimits.vue'
import { barYear, freeYear, setPurity, settleAll, settleYear } from './acts'

/** Lines by years: until when the seed of each is safe, when it is grown anew, and why. */
const props = defineProps<{ room: Schemas['GrowingRoom'] }>()
const act = useAct()
const { area } = useWriting()
type Row = Schemas['YearRow']
type Cell = Schemas['YearCell']
const PURITY = { strict: 'strictly true', mostly: 'mostly true', any: 'surprises are welcome' }
const open = ref<{ line: number; year: number } | null>(null)
const dragged = ref<{ line: number; year: number } | null>(null)
const over = ref<{ line: number; year: number } | null>(null)
const limits = ref(false)
const is = (at: { line: number; year: number } | null, r: Row, c: Cell) =>
  at?.line === r.variety_id && at.year === c.year
const shown = (r: Row) => r.cells.find((c) => is(open.value, r, c))
const toggle = (r: Row, c: Cell) =>
  (open.value = is(open.value, r, c) ? null : { line: r.variety_id, year: c.year })
/** Lines that cross stand together under one brace. */
const heads = computed(() => {
  const seen = new Map<string, number>()
  for (const r of props.room.rows) if (r.crosses) seen.set(r.group, (seen.get(r.group) ?? 0) + 1)
  return seen
})
const crossing = (r: Row) => r.crosses && (heads.value.get(r.group) ?? 0) > 1
const first = (i: number) => i === 0 || props.room.rows[i - 1]?.group !== props.room.rows[i]?.group
const mark = (c: Cell) =>
  c.act === 'sow' ? (c.settled === 'agreed' ? '●' : '○') : c.act === 'flower' ? '✿' : c.settled ? '×' : ''
const said = (r: Row, c: Cell) => {
  const what = {
    sow: c.settled === 'agreed' ? 'grown anew, settled' : 'grown anew',
    flower: 'flowers',
    '': c.settled === 'barred' ? 'ruled out' : 'not grown',
  }[c.act]
  const seed = r.code === 'regrow_count' ? '' : `, enough mothers with a chance of ${percent(c.chance)}`
  return `${r.variety} ${c.year}: ${what}${c.apart ? ', kept apart' : ''}${seed}`
}
const others = (r: Row) => r.cells.map((c) => c.year)
async function move(r: Row, from: number | null, to: number, apart = false): Promise<void> {
  const words = `${r.variety} is grown anew in ${to}`
  const body = { variety_id: r.variety_id, year: to, from_year: from, apart }
  const done = await act.runAsking(words, (anyway) => settleYear({ ...body, anyway }))
  if (done) {
    open.value = { line: r.variety_id, year: to }
    return
  }
  const refused = lastProblem.value
  if (refused?.status !== 409 || apart || refused.warnings.length) return
  lastProblem.value = null
  Modal.confirm({
    title: `Not in ${to}`,
    content: refused.message,
    okText: 'Keep them apart',
    cancelText: 'Leave it',
    onOk: () => move(r, from, to, true),
  })
}
function drop(r: Row, c: Cell) {
  const from = dragged.value
  dragged.value = over.value = null
  if (from?.line === r.variety_id && from.year !== c.year) void move(r, from.year, c.year)
}
const enter = (r: Row, c: Cell) => {
  if (dragged.value?.line === r.variety_id) over.value = { line: r.variety_id, year: c.year }
}
const bar = (r: Row, c: Cell) =>
  act.run(`Not in ${c.year}: ${r.variety}`, () => barYear(r.variety_id, c.year))
const free = (r: Row, c: Cell) =>
  act.run(`${r.variety} in ${c.year} is left to the plan`, () => freeYear(r.variety_id, c.year))
const purity = (r: Row, to: unknown) =>
  act.run(`${r.variety}: ${PURITY[to as keyof typeof PURITY]}`, () =>
    setPurity(r.variety_id, String(to), r.version),
  )
const open_ = (year: number) =>
  props.room.rows.some((r) => r.cells.some((c) => c.year === year && c.act === 'sow' && c.settled === ''))
const all = (year: number) => act.run(`Settled on what is grown anew in ${year}`, () => settleAll(year))
const load = (x: Schemas['YearLoad']) => {
  const parts = [x.lines === 1 ? '1 line' : `${x.lines} lines`]
  if (x.beyond) parts.push(`${x.beyond} more than a year bears`)
  if (x.bed_m2) parts.push(area(x.bed_m2))
  if (x.roots) parts.push(`${x.roots} roots to store over the winter`)
  if (x.over_store) parts.push(`${x.over_store} more than the store holds`)
  if (x.borrowed_m2) parts.push(`${area(x.borrowed_m2)} to borrow`)
  return parts.join(', ')
}
const thisYear = computed(() => props.room.loads.find((x) => x.lines && open_(x.year)))
</script>

<template>
  <section class="years" aria-label="the years ahead">
    <div class="row top">
      <h2>The years ahead</h2>
      <span class="small soft">{{ room.says }}</span>
      <span class="spring" />
      <AButton v-if="thisYear" type="primary" ghost @click="all(thisYear.year)"
        >Settle {{ thisYear.year }}</AButton
      >
      <AButton @click="limits = true">What a year bears</AButton>
    </div>
    <ACollapse v-if="room.ways_out.length" ghost class="out">
      <ACollapsePanel
        key="out"
        :header="`${many(room.ways_out.length, 'place')} where not all can be had at once, and the way out`"
      >
        <ul class="small">
          <li v-for="(o, n) in room.ways_out" :key="n">
            <strong>{{ o.year }}</strong> {{ o.says }}: <span class="soft">{{ o.way }}.</span>
          </li>
        </ul>
      </ACollapsePanel>
    </ACollapse>
    <p class="small soft key">
      <span class="dot">○</span> proposed, <span class="dot">●</span> settled, <span class="dot">✿</span> in
      flower, <span class="swatch safe" /> its seed gives mothers enough, <span class="swatch" /> no longer; a
      thick edge ends the last safe year. Drag a ring to another year, or touch it.
    </p>
    <div class="grid" role="table" aria-label="lines by years" :style="{ '--years': room.years.length }">
      <div class="line head" role="row">
        <span role="columnheader" class="name">line</span>
        <span v-for="x in room.loads" :key="x.year" role="columnheader" class="year" :title="load(x)">
          {{ x.year
          }}<small :class="{ act: x.beyond || x.borrowed_m2 || x.over_store }">{{ x.lines || '' }}</small>
        </span>
      </div>
      <template v-for="(r, i) in room.rows" :key="r.variety_id">
        <div v-if="crossing(r) && first(i)" class="brace small soft">these cross with one another</div>
        <div class="line" role="row" :class="{ crossing: crossing(r) }" :data-line="r.variety">
          <span role="rowheader" class="name">
            <RouterLink :to="`/stock/${r.lot_id}`">{{ r.variety }}</RouterLink>
            <span class="soft"> {{ r.kind_name }}</span>
            <span class="small says" :class="r.last_safe_year ? 'soft' : 'act'">{{ r.says }}</span>
          </span>
          <span v-for="c in r.cells" :key="c.year" role="cell" class="slot">
            <button
              type="button"
              class="cell"
              :class="{
                safe: c.safe,
                last: c.year === r.last_safe_year,
                apart: c.apart,
                open: is(open, r, c),
                target: is(over, r, c),
              }"
              :aria-label="said(r, c)"
              :aria-expanded="is(open, r, c)"
              :draggable="c.act === 'sow'"
              :data-year="c.year"
              @click="toggle(r, c)"
              @dragstart="dragged = { line: r.variety_id, year: c.year }"
              @dragend="dragged = over = null"
              @dragenter.prevent="enter(r, c)"
              @dragover.prevent
              @drop.prevent="drop(r, c)"
            >
              {{ mark(c) }}
            </button>
          </span>
        </div>
        <div v-if="shown(r)" class="card why" role="row">
          <template v-for="c in [shown(r)!]" :key="c.year">
            <div role="cell">
              <strong>{{ r.variety }} {{ c.year }}.</strong>
              {{
                c.why ||
                (c.settled === 'barred'
                  ? 'You ruled this year out.'
                  : c.act === 'flower'
                    ? `Sown in ${c.year - 1}, it flowers now.`
                    : `Enough mothers with a chance of ${percent(c.chance)}.`)
              }}
            </div>
            <div class="row acts" role="cell">
              <template v-if="c.act === 'sow'">
                <AButton
                  v-if="c.settled !== 'agreed'"
                  type="primary"
                  @click="move(r, c.year, c.year, c.apart)"
                  >Settle on it</AButton
                >
                <AButton @click="bar(r, c)">Not in {{ c.year }}</AButton>
                <ChoiceField
                  class="to"
                  :model-value="String(c.year)"
                  label="in"
                  :options="Object.fromEntries(others(r).map((y) => [String(y), String(y)]))"
                  :hears="`grow ${r.variety} in`"
                  @update:model-value="(y) => move(r, c.year, Number(y))"
                />
              </template>
              <AButton v-else-if="c.act !== 'flower'" @click="move(r, null, c.year)"
                >Grow it in {{ c.year }}</AButton
              >
              <AButton v-if="c.settled" type="link" @click="free(r, c)">leave it to the plan</AButton>
              <span class="spring" />
              <ChoiceField
                v-if="r.crosses"
                class="purity"
                :model-value="r.purity"
                label="it is to come"
                :options="PURITY"
                @update:model-value="(to) => purity(r, to)"
              />
            </div>
          </template>
        </div>
      </template>
    </div>
    <YearLimits v-if="limits" @close="limits = false" />
  </section>
</template>

<style scoped>
.top {
  gap: 8px 14px;
  align-items: baseline;
}
h2 {
  margin: 14px 0 6px;
}
.out :deep(.ant-collapse-header),
.out :deep(.ant-collapse-content-box) {
  padding: 2px 0;
}
.out ul {
  margin: 0;
  padding-left: 18px;
}
.key {
  margin: 0 0 8px;
}
.dot {
  color: var(--ink);
}
.swatch {
  display: inline-block;
  width: 16px;
  height: 12px;
  border: 1px solid var(--hair);
  vertical-align: -1px;
}
.line {
  display: grid;
  grid-template-columns: minmax(180px, 300px) repeat(var(--years), 1fr);
  align-items: stretch;
  border-top: 1px solid var(--hair-soft);
}
.line.head {
  border-top: 0;
  color: var(--soft);
  font-size: 13px;
}
.head .year {
  text-align: center;
  align-self: end;
}
.head small {
  display: block;
  min-height: 1.3em;
}
.name {
  padding: 5px 10px 5px 0;
}
.says {
  display: block;
  font: 13px/1.3 var(--sans);
}
.brace {
  border-top: 1px solid var(--hair-soft);
  padding: 4px 0 0 10px;
  border-left: 3px solid var(--shelf);
}
.line.crossing .name {
  border-left: 3px solid var(--shelf);
  padding-left: 10px;
}
.slot {
  display: flex;
}
.cell {
  flex: 1;
  min-height: 44px;
  border: 0;
  border-left: 1px solid var(--page);
  background: repeating-linear-gradient(135deg, var(--hair-soft) 0 2px, transparent 2px 7px);
  color: var(--ink);
  font: 17px/1 var(--sans);
  cursor: pointer;
}
.cell.safe,
.swatch.safe {
  background: var(--living-wash);
}
.swatch:not(.safe) {
  background: repeating-linear-gradient(135deg, var(--hair) 0 2px, transparent 2px 7px);
}
.cell.last {
  border-right: 4px solid var(--warm);
}
.cell.apart {
  outline: 2px dotted var(--act);
  outline-offset: -5px;
}
.cell[draggable='true'] {
  cursor: grab;
}
.cell.target {
  background: var(--act-wash);
}
.cell.open,
.cell:focus-visible {
  box-shadow: inset 0 0 0 2px var(--act);
}
.why {
  margin: 4px 0 8px;
  max-width: 100ch;
}
.acts {
  margin-top: 8px;
  gap: 8px 10px;
  align-items: end;
}
.acts :deep(.ant-form-item) {
  margin-bottom: 0;
}
.to {
  width: 110px;
}
.purity {
  width: 210px;
}
@media (max-width: 700px) {
  .line {
    grid-template-columns: repeat(var(--years), 1fr);
  }
  .line .name {
    grid-column: 1 / -1;
  }
  .line.head .name {
    display: none;
  }
  .head .year {
    font-size: 12px;
  }
}
</style>
