<script setup lang="ts">
import { computed, nextTick, ref } from 'vue'
import type { Schemas } from '../../api/client'
import { useAct, useTriage } from '../../api/queries'
import { useAddress } from '../../parts/address'
import { useAxis } from '../../parts/axis'
import { usePageKeys, walk } from '../../parts/keys'
import type { Column } from '../../parts/DataTable.vue'
import { amount, many, seedsWords, word } from '../../parts/words'
import { useWriting } from '../../parts/writing'
import { decide as sayDecided, decideBy } from './acts'
import RoomHead from '../../parts/RoomHead.vue'

/** Three opinions of each lot side by side; one key each for what follows. */
type Line = Schemas['TriageLine']
const KEYS: Record<string, string> = { k: 'keep', s: 'sow_thick', t: 'test', r: 'regrow', o: 'shoots', f: 'food', g: 'give', l: 'let_go', c: 'count', d: 'dry', a: 'find_again', w: 'wait' } // prettier-ignore
const keyOf = (d: string) => Object.entries(KEYS).find(([, v]) => v === d)?.[0]
usePageKeys([
  ['↓ ↑', 'the next packet, the one before'],
  ['Enter', 'the first advice'],
  ...Object.entries(KEYS).map(([k, d]): [string, string] => [k, word('follows', d).toLowerCase()]),
])
const room = useTriage()
const act = useAct()
const { axis } = useAxis()
const list = ref<HTMLElement | null>(null)
const SHOW = {
  undecided: 'not yet decided',
  disagree: 'only where they disagree',
  all: 'all packets',
}
const only = useAddress('show', 'undecided')
const lines = computed(() =>
  (room.data.value?.lines ?? []).filter((l) =>
    only.value === 'all' ? true : only.value === 'disagree' ? l.disagree && !l.decided : !l.decided,
  ),
)
const disagreeing = computed(() => (room.data.value?.lines ?? []).filter((l) => l.disagree).length)
async function decide(l: Line, decision: string) {
  const rows = [...(list.value?.querySelectorAll<HTMLElement>('[data-lot]') ?? [])]
  const at = rows.findIndex((r) => r.dataset.lot === String(l.line.lot_id))
  const next = rows[at + 1]?.dataset.lot ?? rows[at - 1]?.dataset.lot
  const done = await act.run(
    `${l.line.code} ${l.line.variety}: ${word('follows', decision).toLowerCase()}`,
    () => sayDecided(l.line.lot_id, decision),
  )
  if (!done) return
  await nextTick()
  if (next) list.value?.querySelector<HTMLElement>(`[data-lot="${next}"]`)?.focus()
}
function does(key: string, l: Line) {
  const decision = key === 'Enter' ? l.advice[0] : KEYS[key]
  if (decision) void decide(l, decision)
  return Boolean(decision)
}
const walked = (l: Line) => ({
  'data-lot': l.line.lot_id,
  tabindex: 0,
  onKeydown: (e: KeyboardEvent) => walk(e, '[data-lot]', (key) => does(key, l)),
})
type School = NonNullable<typeof room.data.value>['schools'][number]
const columns = computed<Column<School>[]>(() => {
  const failed = `sowings that fail, of ${room.data.value?.sowings ?? 0}`
  return [
    { key: 'way', title: 'way' },
    { key: 'failed', title: failed, small: failed, by: (s) => s.cost.failed },
    { key: 'seeds', title: 'seeds used', small: 'seeds used', by: (s) => s.cost.seeds },
    {
      key: 'thrown',
      title: 'living seeds thrown out',
      small: 'living seeds thrown out',
      by: (s) => s.cost.thrown,
    },
    { key: 'bought', title: 'packets bought', small: 'packets bought', by: (s) => s.cost.bought },
    { key: 'ours' },
  ]
})
const tenth = (n: number) => n.toFixed(1).replace('.', decimal.value)
const { decimal } = useWriting()
const others = (l: Line) => l.advice.slice(1)
const school = (key: string, words: string) => act.run(`We decide by ${words}`, () => decideBy(key))
</script>

<template>
  <section>
    <RoomHead title="Triage" back="Stock" to="/stock">
      <span v-if="room.data.value" class="soft">
        {{ many(disagreeing, 'packet') }} of which the rules disagree · {{ room.data.value.decided }} decided
        this year
      </span>
      <span class="spring" />
      <Choice v-model="only" class="only" :options="SHOW" hears="Show" name="show" />
    </RoomHead>
    <RoomState :query="room" />
    <template v-if="room.data.value">
      <details class="schools card">
        <summary>
          How we decide:
          <strong>{{ room.data.value.schools.find((s) => s.chosen)?.words }}</strong>
          <span class="soft small"> · what each way costs</span>
        </summary>
        <DataTable
          :rows="room.data.value.schools"
          :columns
          by="school"
          :row-class="(s) => (s.chosen ? 'chosen' : '')"
        >
          <template #way="{ row }">{{ row.words }}</template>
          <template #failed="{ row }">{{ tenth(row.cost.failed) }}</template>
          <template #seeds="{ row }">{{ amount(Math.round(row.cost.seeds)) }}</template>
          <template #thrown="{ row }">{{ amount(Math.round(row.cost.thrown)) }}</template>
          <template #bought="{ row }">{{ row.cost.bought.toFixed(0) }}</template>
          <template #ours="{ row }">
            <span v-if="row.chosen" class="soft">ours</span>
            <AButton v-else type="link" size="small" @click="school(row.school, row.words)">
              decide this way
            </AButton>
          </template>
        </DataTable>
        <p class="small soft">
          Reckoned over what is believed of each packet in hand, {{ room.data.value.stand }} plants wanted of
          each. All ways sow, throw out and buy by the same rule and differ only in what they believe; what a
          test shows is believed before the sowing. With fewer than three quarters of its plants a sowing has
          failed (a guess). One year only: what a way learns for later years is not counted.
        </p>
      </details>
      <p class="small soft desk">
        Arrows to move, <kbd>Enter</kbd> takes the first advice; the other keys stand behind <kbd>?</kbd>.
      </p>
      <p v-if="!lines.length">Nothing left to decide here.</p>
      <ul ref="list" class="list">
        <li v-for="l in lines" :key="l.line.lot_id" :class="{ disagree: l.disagree }" v-bind="walked(l)">
          <div>
            <RouterLink :to="`/stock/${l.line.lot_id}`" class="code">{{ l.line.code }}</RouterLink>
            <span class="name"> {{ l.line.variety }}</span>
            <div class="small soft">
              {{ l.line.kind_name }} · {{ seedsWords(l.line) }} · {{ l.line.origin }}
            </div>
            <FadeStrip :glance="l.line.glance" :axis :height="22" />
          </div>
          <dl class="opinions small">
            <div :class="l.age_rule">
              <dt>age rule</dt>
              <dd>
                <strong>{{ word('opinion', l.age_rule) }}</strong> {{ l.age_words }}
              </dd>
            </div>
            <div :class="l.test">
              <dt>last test</dt>
              <dd>
                <strong v-if="l.test !== 'none'">{{ word('opinion', l.test) }}</strong> {{ l.test_words }}
              </dd>
            </div>
            <div :class="l.forecast">
              <dt>forecast</dt>
              <dd>
                <strong>{{ word('opinion', l.forecast) }}</strong> {{ l.forecast_words }}
              </dd>
            </div>
          </dl>
          <div class="follows">
            <div class="small">{{ l.why }}</div>
            <span v-if="l.decided" class="soft">decided: {{ word('follows', l.decided).toLowerCase() }}</span>
            <div class="row">
              <AButton type="primary" @click="decide(l, l.advice[0]!)">
                {{ word('follows', l.advice[0]) }} <kbd>{{ keyOf(l.advice[0]!) }}</kbd>
              </AButton>
              <AButton v-for="d in others(l)" :key="d" @click="decide(l, d)">
                {{ word('follows', d) }}
              </AButton>
              <AButton
                v-if="!l.advice.includes('let_go')"
                type="link"
                size="small"
                @click="decide(l, 'let_go')"
              >
                let go
              </AButton>
            </div>
          </div>
        </li>
      </ul>
    </template>
  </section>
</template>

<style scoped>
.spring {
  flex: 1;
}
.key {
  display: inline-block;
  margin-left: 10px;
}
.schools {
  margin-bottom: 8px;
}
.chosen td {
  font-weight: 600;
}
.list {
  list-style: none;
  padding: 0;
  margin: 0;
}
.list li {
  display: grid;
  grid-template-columns: minmax(210px, 1fr) minmax(300px, 1.3fr) minmax(260px, 1.2fr);
  gap: 16px;
  border-top: 1px solid var(--hair-soft);
  padding: 8px 6px;
}
.list li.disagree {
  border-left: 4px solid var(--warm);
  padding-left: 8px;
}
.opinions {
  margin: 0;
}
.opinions div {
  display: grid;
  grid-template-columns: 70px 1fr;
}
.opinions dt {
  color: var(--soft);
}
.opinions dd {
  margin: 0;
}
.opinions .good strong {
  color: var(--living);
}
.opinions .poor strong {
  color: var(--warm);
}
.follows .row {
  gap: 6px;
  margin-top: 4px;
}
.follows .btn {
  padding: 4px 9px;
}
@media (max-width: 760px) {
  .desk {
    display: none;
  }
  .list li {
    grid-template-columns: 1fr;
    gap: 6px;
  }
}
</style>
