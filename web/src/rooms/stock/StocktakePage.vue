<script setup lang="ts">
import { computed, nextTick, ref } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import type { Schemas } from '../../api/client'
import { useAct, useTake } from '../../api/queries'
import { usePageKeys, walk } from '../../parts/keys'
import { seedsWords, word } from '../../parts/words'
import { finishStocktake, leaveOff, markFound, takeIn } from './acts'
import RoomHead from '../../parts/RoomHead.vue'

/** One container, packet by packet: there, counted, not here; unexpected ones by their code. */
type Line = Schemas['TakeLine']
const REST = { '': 'leave as they were', missing: 'not here', found: 'all there' }
const CONDITIONS = ['damp', 'mouldy', 'sprouted', 'eaten'] as const
usePageKeys([
  ['↓ ↑', 'the next packet, the one before'],
  ['Enter', 'it is there'],
  ['c', 'count it'],
  ['m', 'it is not here'],
])
const route = useRoute()
const router = useRouter()
const id = computed(() => Number(route.params.id))
const page = useTake(id)
const act = useAct()
const t = computed(() => page.data.value)
const counting = ref<number | null>(null)
const much = ref('')
const odd = ref<number | null>(null)
const code = ref('')
const rest = ref<string>('')
const list = ref<HTMLElement | null>(null)
const done = computed(() => t.value?.state === 'done')
const marked = computed(() => (t.value?.lines ?? []).filter((l) => l.result).length)

async function mark(l: Line, result: string, condition = l.condition, said = '') {
  const words = `${l.code} ${l.variety}: ${said ? `counted ${said}` : word('found', result) || result}${condition ? `, ${condition}` : ''}`
  const body = { lot_id: l.lot_id, result, condition, amount: said }
  const ok = await act.run(words, () => markFound(id.value, body))
  if (!ok) return
  counting.value = odd.value = null
  much.value = ''
  await nextTick()
  focusNext(l.lot_id)
}
/** What was said of a packet, in words. */
const said = (l: Line) =>
  [[word('found', l.result), l.as_said].filter(Boolean).join(' '), l.condition].filter(Boolean).join(', ') +
  (l.came_from ? ` (from ${l.came_from})` : '')
/** The next packet that waits comes under the thumb. */
function focusNext(after: number) {
  const all = t.value?.lines ?? []
  const from = all.findIndex((l) => l.lot_id === after)
  const next = [...all.slice(from + 1), ...all.slice(0, from)].find((l) => !l.result && l.lot_id !== after)
  if (!next) return
  const el = list.value?.querySelector<HTMLElement>(`[data-lot="${next.lot_id}"]`)
  el?.scrollIntoView({ block: 'center' })
  el?.focus({ preventScroll: true })
}
function startCount(l: Line) {
  counting.value = counting.value === l.lot_id ? null : l.lot_id
  odd.value = null
  much.value = ''
  nextTick(() => list.value?.querySelector<HTMLInputElement>('.count input')?.focus())
}
async function takeCode() {
  if (!code.value.trim()) return
  const given = code.value.trim()
  const ok = await act.run(`Took ${given} in here`, () => takeIn(id.value, given))
  if (ok) code.value = ''
}
async function leave() {
  const ok = await act.run(`Left off in ${t.value?.name}`, () => leaveOff(id.value))
  if (ok) router.push('/stock/stocktake')
}
const finish = () => act.run(`Went through ${t.value?.name}`, () => finishStocktake(id.value, rest.value))
function does(key: string, l: Line) {
  if (key === 'Enter' || key === 't') void mark(l, 'found')
  else if (key === 'c') startCount(l)
  else if (key === 'm') void mark(l, 'missing')
  else return false
  return true
}
const walked = (l: Line) => ({
  'data-lot': l.lot_id,
  tabindex: 0,
  onKeydown: (e: KeyboardEvent) => walk(e, '[data-lot]', (key) => does(key, l)),
})
</script>

<template>
  <section class="take">
    <RouterLink to="/stock/stocktake" class="small">← Stocktake</RouterLink>
    <RoomState :query="page" />
    <template v-if="t">
      <RoomHead :title="t.name">
        <span class="soft" role="status">{{ marked }} of {{ t.lines.length }} looked at</span>
      </RoomHead>
      <div v-if="done" class="card report" role="status" aria-label="Report">
        <h2>What came of it</h2>
        <p v-for="r in t.report" :key="r">{{ r }}</p>
        <RouterLink class="btn" to="/stock/stocktake">The next container</RouterLink>
      </div>
      <p v-else class="small soft desk">
        On a keyboard: <kbd>Enter</kbd> there, <kbd>c</kbd> count, <kbd>m</kbd> not here, arrows to move.
      </p>
      <ol ref="list" class="worked gone-through">
        <li v-for="l in t.lines" :key="l.lot_id" :class="{ said: l.result }" v-bind="walked(l)">
          <div class="what">
            <span class="code">{{ l.code }}</span> <span class="name">{{ l.variety }}</span>
            <div class="small soft">
              {{ l.kind_name }} · {{ l.origin }} ·
              {{ seedsWords(l) }}
              <template v-if="l.position"> · {{ l.position }}</template>
            </div>
            <div v-if="l.result" class="result" :class="l.result">
              {{ said(l) }}
              <span v-if="l.changed" class="soft small"> · {{ l.changed }}</span>
            </div>
          </div>
          <div v-if="!done" class="buttons">
            <AButton type="primary" :ghost="!!l.result" @click="mark(l, 'found')"> There </AButton>
            <AButton type="primary" ghost :aria-expanded="counting === l.lot_id" @click="startCount(l)">
              Count
            </AButton>
            <AButton @click="mark(l, 'missing')">Not here</AButton>
            <AButton :aria-expanded="odd === l.lot_id" @click="odd = odd === l.lot_id ? null : l.lot_id">
              Odd
            </AButton>
          </div>
          <form
            v-if="counting === l.lot_id"
            class="count row"
            @submit.prevent="mark(l, 'counted', l.condition, much)"
          >
            <TextField
              v-model="much"
              label="how much is there"
              placeholder="80, 3 g, half left"
              :hears="`how much of ${l.code}`"
            />
            <AButton type="primary" html-type="submit" :disabled="!much.trim()">Counted</AButton>
          </form>
          <div v-if="odd === l.lot_id" class="row odd">
            <AButton v-for="c in CONDITIONS" :key="c" type="primary" ghost @click="mark(l, 'found', c)">
              {{ c }}
            </AButton>
            <p class="small soft">Mould: mask, discard outdoors. Droppings: wet-clean, no sweeping.</p>
          </div>
        </li>
      </ol>
      <template v-if="!done">
        <template v-if="t.unplaced.length">
          <h2>With no place named</h2>
          <p class="small soft">Is one of these in here?</p>
          <ul class="unplaced gone-through">
            <li v-for="l in t.unplaced" :key="l.lot_id" class="row">
              <span class="code">{{ l.code }}</span> {{ l.variety }}
              <span class="soft">{{ l.kind_name }}</span>
              <AButton type="primary" ghost :disabled="act.busy.value" @click="mark(l, 'found')">
                It is here
              </AButton>
            </li>
          </ul>
        </template>
        <form class="row unexpected" @submit.prevent="takeCode">
          <TextField
            v-model="code"
            label="something here that is not on the list"
            autocapitalize="characters"
            placeholder="its code, or scan its label"
          />
          <AButton type="primary" ghost html-type="submit" :disabled="!code.trim()">Take it in</AButton>
          <RouterLink class="btn link" to="/stock/add">no code: a new packet</RouterLink>
        </form>
        <div class="sheet-foot">
          <label v-if="t.left" class="small"
            >{{ t.left }} not looked at:
            <Choice v-model="rest" :options="REST" hears="what of the rest" name="rest"
          /></label>
          <span class="spring" />
          <AButton @click="leave">Leave off</AButton>
          <AButton type="primary" :disabled="act.busy.value" @click="finish">Done with it</AButton>
        </div>
      </template>
    </template>
  </section>
</template>

<style scoped>
.take {
  max-width: 820px;
}
li.said {
  background: color-mix(in srgb, var(--living-wash) 35%, transparent);
}
.buttons {
  display: flex;
  gap: 6px;
}
.count,
.odd {
  grid-column: 1 / -1;
}
.count input {
  font-size: 17px;
}
.result {
  color: var(--living);
  font-weight: 600;
}
.result.missing {
  color: var(--warm);
}
.report {
  margin-bottom: 12px;
}
.unexpected {
  border-top: 1px solid var(--hair);
  padding: 10px 0;
  align-items: end;
}
.unexpected input {
  min-width: 230px;
}
.spring {
  flex: 1;
}
@media (max-width: 760px) {
  li {
    grid-template-columns: 1fr;
  }
  .buttons .btn {
    flex: 1;
    padding: 6px 4px;
  }
  .desk {
    display: none;
  }
  .foot .btn {
    flex: 1;
  }
  .foot label {
    flex: 1 0 100%;
  }
  .spring {
    display: none;
  }
}
</style>
