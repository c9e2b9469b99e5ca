<script setup lang="ts">
import { computed, nextTick, ref } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { api, take, type Schemas } from '../../api/client'
import { useAct, useTake } from '../../api/queries'
import { amount, word } from '../../parts/words'

/** One container, packet by packet: there, counted, not here; unexpected ones by their code. */
type Line = Schemas['TakeLine']
const CONDITIONS = ['damp', 'mouldy', 'sprouted', 'eaten'] as const
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
const rest = ref('')
const list = ref<HTMLElement | null>(null)
const path = computed(() => ({ params: { path: { stocktake_id: id.value } } }))
const done = computed(() => t.value?.state === 'done')
const marked = computed(() => (t.value?.lines ?? []).filter((l) => l.result).length)

async function mark(l: Line, result: string, condition = l.condition, said = '') {
  const words = `${l.code} ${l.variety}: ${said ? `counted ${said}` : word('found', result) || result}${condition ? `, ${condition}` : ''}`
  const body = { lot_id: l.lot_id, result, condition, amount: said }
  const ok = await act.run(words, () =>
    take(api.POST('/api/stock/stocktakes/{stocktake_id}/lots', { ...path.value, body })),
  )
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
async function takeIn() {
  if (!code.value.trim()) return
  const given = code.value.trim()
  const ok = await act.run(`Took ${given} in here`, () =>
    take(api.POST('/api/stock/stocktakes/{stocktake_id}/code', { ...path.value, body: { code: given } })),
  )
  if (ok) code.value = ''
}
async function leave() {
  const ok = await act.run(`Left off in ${t.value?.name}`, () =>
    take(api.POST('/api/stock/stocktakes/{stocktake_id}/pause', path.value)),
  )
  if (ok) router.push('/stock/stocktake')
}
const finish = () =>
  act.run(`Went through ${t.value?.name}`, () =>
    take(
      api.POST('/api/stock/stocktakes/{stocktake_id}/finish', { ...path.value, body: { rest: rest.value } }),
    ),
  )
function keys(e: KeyboardEvent, l: Line) {
  if (e.target !== e.currentTarget || e.ctrlKey || e.metaKey || e.altKey) return
  const rows = [...(list.value?.querySelectorAll<HTMLElement>('[data-lot]') ?? [])]
  const at = rows.indexOf(e.currentTarget as HTMLElement)
  if (e.key === 'ArrowDown') rows[at + 1]?.focus()
  else if (e.key === 'ArrowUp') rows[at - 1]?.focus()
  else if (e.key === 'Enter' || e.key === 't') void mark(l, 'found')
  else if (e.key === 'c') startCount(l)
  else if (e.key === 'm') void mark(l, 'missing')
  else return
  e.preventDefault()
  e.stopPropagation()
}
</script>

<template>
  <section class="take">
    <RouterLink to="/stock/stocktake" class="small">← Stocktake</RouterLink>
    <div v-if="page.isPending.value"><div v-for="i in 6" :key="i" class="skeleton" /></div>
    <div v-else-if="page.isError.value" class="card">{{ page.error.value?.message }}</div>
    <template v-else-if="t">
      <div class="lead">
        <h1>{{ t.name }}</h1>
        <span class="soft" role="status">{{ marked }} of {{ t.lines.length }} looked at</span>
      </div>
      <div v-if="done" class="card report" role="status" aria-label="Report">
        <h2>What came of it</h2>
        <p v-for="r in t.report" :key="r">{{ r }}</p>
        <RouterLink class="btn" to="/stock/stocktake">The next container</RouterLink>
      </div>
      <p v-else class="small soft desk">
        On a keyboard: <kbd>Enter</kbd> there, <kbd>c</kbd> count, <kbd>m</kbd> not here, arrows to move.
      </p>
      <ol ref="list">
        <li
          v-for="l in t.lines"
          :key="l.lot_id"
          :data-lot="l.lot_id"
          :class="{ said: l.result }"
          tabindex="0"
          @keydown="keys($event, l)"
        >
          <div class="what">
            <span class="code">{{ l.code }}</span> <span class="name">{{ l.variety }}</span>
            <div class="small soft">
              {{ l.kind_name }} · {{ l.origin }} ·
              {{
                l.seeds === null || l.seeds === undefined
                  ? 'not counted'
                  : `${amount(Math.round(l.seeds))} seeds`
              }}
              <template v-if="l.position"> · {{ l.position }}</template>
            </div>
            <div v-if="l.result" class="result" :class="l.result">
              {{ said(l) }}
              <span v-if="l.changed" class="soft small"> · {{ l.changed }}</span>
            </div>
          </div>
          <div v-if="!done" class="buttons">
            <button class="btn" :class="{ quiet: l.result }" type="button" @click="mark(l, 'found')">
              There
            </button>
            <button
              class="btn quiet"
              type="button"
              :aria-expanded="counting === l.lot_id"
              @click="startCount(l)"
            >
              Count
            </button>
            <button class="btn plain" type="button" @click="mark(l, 'missing')">Not here</button>
            <button
              class="btn plain"
              type="button"
              :aria-expanded="odd === l.lot_id"
              @click="odd = odd === l.lot_id ? null : l.lot_id"
            >
              Odd
            </button>
          </div>
          <form
            v-if="counting === l.lot_id"
            class="count row"
            @submit.prevent="mark(l, 'counted', l.condition, much)"
          >
            <label class="field"
              >how much is there<input
                v-model="much"
                placeholder="80, 3 g, half left"
                :aria-label="`how much of ${l.code}`"
            /></label>
            <button class="btn" type="submit" :disabled="!much.trim()">Counted</button>
          </form>
          <div v-if="odd === l.lot_id" class="row odd">
            <button
              v-for="c in CONDITIONS"
              :key="c"
              class="btn quiet"
              type="button"
              @click="mark(l, 'found', c)"
            >
              {{ c }}
            </button>
            <p class="small soft">Mould: mask, discard outdoors. Droppings: wet-clean, no sweeping.</p>
          </div>
        </li>
      </ol>
      <template v-if="!done">
        <template v-if="t.unplaced.length">
          <h2>With no place named</h2>
          <p class="small soft">Is one of these in here?</p>
          <ul class="unplaced">
            <li v-for="l in t.unplaced" :key="l.lot_id" class="row">
              <span class="code">{{ l.code }}</span> {{ l.variety }}
              <span class="soft">{{ l.kind_name }}</span>
              <button class="btn quiet" type="button" :disabled="act.busy.value" @click="mark(l, 'found')">
                It is here
              </button>
            </li>
          </ul>
        </template>
        <form class="row unexpected" @submit.prevent="takeIn">
          <label class="field"
            >something here that is not on the list<input
              v-model="code"
              autocapitalize="characters"
              placeholder="its code, or scan its label"
          /></label>
          <button class="btn quiet" type="submit" :disabled="!code.trim()">Take it in</button>
          <RouterLink class="btn link" to="/stock/add">no code: a new packet</RouterLink>
        </form>
        <div class="foot">
          <label v-if="t.left" class="small"
            >{{ t.left }} not looked at:
            <select v-model="rest" class="plain" aria-label="what of the rest">
              <option value="">leave as they were</option>
              <option value="missing">not here</option>
              <option value="found">all there</option>
            </select></label
          >
          <span class="spring" />
          <button class="btn plain" type="button" @click="leave">Leave off</button>
          <button class="btn" type="button" :disabled="act.busy.value" @click="finish">Done with it</button>
        </div>
      </template>
    </template>
  </section>
</template>

<style scoped>
.take {
  max-width: 820px;
}
ol {
  list-style: none;
  margin: 0;
  padding: 0;
}
li {
  display: grid;
  grid-template-columns: 1fr auto;
  gap: 4px 14px;
  align-items: center;
  border-top: 1px solid var(--hair-soft);
  padding: 8px 4px;
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
.foot {
  position: sticky;
  bottom: 0;
  background: var(--page);
  border-top: 1px solid var(--hair);
  padding: 10px 0;
  display: flex;
  gap: 10px;
  align-items: center;
  flex-wrap: wrap;
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
  .foot {
    /* above the bar of rooms */
    bottom: 56px;
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
