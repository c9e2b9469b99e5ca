<script setup lang="ts">
import { computed, ref } from 'vue'
import { useRoute } from 'vue-router'
import { Problem } from '../../api/client'
import { useAct, useLot } from '../../api/queries'
import { useNew } from '../../parts/keys'
import { useAxis } from '../../parts/axis'
import type { Rare } from '../../parts/More.vue'
import { useSheet } from '../../parts/sheets'
import { believed, day, iso, likely, middle, percent, seedsWords, tenths, until } from '../../parts/words'
import { useWriting } from '../../parts/writing'
import { together } from './acts'
import FamilyTree from './FamilyTree.vue'
import LabelPreview from './LabelPreview.vue'
import LotBalance from './LotBalance.vue'
import LotHistory from './LotHistory.vue'
import LotMoves from './LotMoves.vue'
import LotSheets, { type Asking } from './LotSheets.vue'
import RoomHead from '../../parts/RoomHead.vue'

const route = useRoute()
const id = computed(() => Number(route.params.id))
const lot = useLot(id)
const act = useAct()
const { written } = useWriting()
const gone = computed(() => lot.error.value instanceof Problem && lot.error.value.status === 404)
const page = computed(() => (gone.value ? undefined : lot.data.value))
const line = computed(() => page.value?.line)
const g = computed(() => line.value?.glance)
const { axis, level, thisYear, years } = useAxis()
const asking = useSheet<Asking>()
const exact = ref(false)
useNew('start a test', () => pieces.value || (asking.value = 'test'))
const unnamed = computed(() => line.value?.verdict.standing === 'unnamed')
/** Tubers, sets, plants: nothing is forecast of them, they keep until they are set. */
const pieces = computed(() => !!line.value?.form)
const alive = computed(() => !['dead', 'empty', 'spoilt'].includes(line.value?.verdict.standing ?? ''))
const name = computed(() => `${line.value?.code} ${line.value?.variety}`)

function state(to: 'here' | 'fetched' | 'missing' | 'gone', words: string) {
  const body = { what: 'state' as const, lot_ids: [id.value], state: to, anyway: false }
  return act.runAsking(`${name.value}: ${words}`, () => together(body))
}
function move(node_id: number, to: string) {
  const body = { what: 'move' as const, lot_ids: [id.value], node_id, section: '', slot: '', on: '' }
  return act.runAsking(`Moved ${name.value} to ${to}`, (anyway) => together({ ...body, anyway }))
}
const ask = (words: string, sheet: Asking, key?: string): Rare => ({
  words,
  key,
  act: () => (asking.value = sheet),
})
/** All that can be done, in the order in which this packet needs it: three are shown, the rest in a menu. */
const acts = computed<Rare[]>(() => {
  const wanted = line.value?.verdict.acts ?? []
  const here = line.value?.state === 'here'
  const all: (Rare & { when?: string; only?: boolean })[] = [
    {
      words: line.value?.state === 'missing' ? 'Found it' : 'Put back',
      act: () => state('here', 'back in its place'),
      only: !here,
      when: here ? undefined : wanted[0],
    },
    {
      ...ask(pieces.value ? 'Count them' : 'Count seeds', 'count'),
      when: pieces.value ? 'look_over' : 'count',
    },
    { ...ask('Start a test', 'test', 'n'), when: 'test', only: !pieces.value },
    { ...ask(pieces.value ? 'Set' : 'Sow', 'sow'), only: alive.value, when: pieces.value ? 'set' : 'sow' },
    { words: 'Let it go', act: () => state('gone', 'let go'), when: 'let_go' },
    { ...ask('Grow this year', 'pick'), only: alive.value },
    ask('Move', 'move'),
    { words: 'Fetched', act: () => state('fetched', 'fetched'), only: here },
    ask('Put right', 'edit'),
    ask('Something happened', 'event'),
    ask('Split', 'split'),
    ask('Pour together', 'pour'),
    ask('Set some aside', 'aside'),
    ask('Weigh a hundred', 'weigh'),
    { words: 'Could not be found', act: () => state('missing', 'could not be found'), only: here },
  ]
  const rank = (a: (typeof all)[number]) => {
    const at = a.when ? wanted.indexOf(a.when as (typeof wanted)[number]) : -1
    return at < 0 ? (a.words === 'Let it go' ? 98 : 50) : at
  }
  return all.filter((a) => a.only !== false).sort((a, b) => rank(a) - rank(b))
})
const BAG = [{ key: 'what' }, { key: 'share' }, { key: 'now' }]
const WENT = [{ key: 'from' }, { key: 'place' }, { key: 'days' }, { key: 'points' }]
const TESTS = [{ key: 'code' }, { key: 'sown' }, { key: 'up' }, { key: 'says' }]
</script>

<template>
  <section>
    <RouterLink to="/stock" class="small">← Stock</RouterLink>
    <RoomState :query="lot" />
    <template v-if="page && line && g">
      <RoomHead>
        <template #title>
          <span class="code">{{ line.code }}</span> {{ line.variety }}
        </template>
        <span class="soft"
          >{{ line.kind_name
          }}<template v-if="line.type_name && line.type_name !== line.kind_name"
            >, {{ line.type_name }}</template
          >
          <i v-if="page.species">{{ page.species }}</i> · {{ seedsWords(line) }} · {{ line.origin }} ·
          {{ line.place || 'no place named'
          }}<template v-if="line.position">, {{ line.position }}</template></span
        >
        <span v-if="page.files_at" class="soft small"
          >files under {{ page.files_at.heading }}, {{ page.files_at.words }}</span
        >
      </RoomHead>
      <div class="next row" data-next>
        <strong role="status" :class="{ act: line.urgency >= 2 }">{{ line.next_act }}</strong>
        <span class="spring" />
        <AButton
          v-for="(a, i) in acts.slice(0, 3)"
          :key="a.words"
          :type="i ? 'default' : 'primary'"
          @click="a.act"
        >
          {{ a.words }} <kbd v-if="a.key">{{ a.key }}</kbd>
        </AButton>
        <More :acts="acts.slice(3)" words="more" :hears="`more to do with ${name}`" />
      </div>
      <p v-if="line.plenty" class="soft small">{{ line.plenty }}.</p>
      <p v-if="line.state !== 'here'" class="act" role="status">
        {{
          line.state === 'missing'
            ? 'It could not be found where it should be.'
            : 'It was fetched and not put back yet.'
        }}
      </p>
      <div class="big card">
        <p v-if="unnamed" class="soft">
          Nobody knows what kind this is, so nothing is said of how long it keeps or whether it is good. Say
          what it is under “Put it right”, or test a few.
        </p>
        <div v-if="pieces" class="headline">
          <div v-if="line.kept_until_s">
            <span class="figure">{{ day(line.kept_until_s) }}</span>
            <div class="soft">about the last good day of these {{ line.unit }}s where they lie, a guess</div>
          </div>
          <div v-if="line.set_from_s">
            <span class="figure">{{ day(line.set_from_s) }}</span>
            <div class="soft">set from then on</div>
          </div>
        </div>
        <div v-else-if="!unnamed" class="headline">
          <div>
            <span class="figure">{{ middle(g.now.mid, g.now.step) }}</span> {{ likely(g.now) }}
            <div class="soft">
              now: {{ tenths(g.now.mid) }} come up{{ g.guess ? ', an educated guess until tested' : '' }}
            </div>
          </div>
          <div v-if="g.at_sowing && g.next_sowing_s">
            <span class="figure">{{ middle(g.at_sowing.mid, g.at_sowing.step) }}</span>
            {{ likely(g.at_sowing) }}
            <div class="soft">
              at its next sowing {{ g.sowing_setting }},
              <span :title="iso(g.next_sowing_s)">{{ day(g.next_sowing_s) }}</span>
            </div>
          </div>
          <div v-if="alive">
            <span class="figure">{{ g.good_beyond ? 'longer than can be said' : until(g) }}</span>
            <div class="soft">
              {{
                g.good_beyond ? `it stays above ${percent(level)}` : `when it falls below ${percent(level)}`
              }}
            </div>
          </div>
          <div v-if="g.regrow_asked">
            <span class="figure" :class="{ act: !g.last_safe_year || g.last_safe_year <= thisYear + 1 }">{{
              g.last_safe_year ?? (alive ? 'not safe any more' : 'none left to regrow')
            }}</span>
            <div class="soft">last safe year to regrow the line</div>
          </div>
        </div>
        <div v-if="!unnamed && !pieces" class="plot">
          <div class="scale small soft" aria-hidden="true">
            <span>100 %</span><span>50</span><span>0</span>
          </div>
          <div>
            <FadeStrip :glance="g" :axis :height="120" large />
            <div class="years small soft" aria-hidden="true">
              <span v-for="y in years" :key="y">{{ y }}</span>
            </div>
          </div>
        </div>
        <p v-if="!unnamed && !pieces" class="small soft legend">
          Dark ink: nine in ten sure of it; softer above it up to the likeliest and to the upper end of what
          is likely. Dotted line: {{ percent(level) }}, the level you sow at.
        </p>
      </div>

      <div class="columns">
        <div>
          <h2>Why?</h2>
          <div v-if="page.guide.length" class="guide" role="status">
            <strong>It got wet or worse: the first hours count.</strong>
            <ol>
              <li v-for="step in page.guide" :key="step">{{ step }}</li>
            </ol>
          </div>
          <ol class="why">
            <li v-for="w in page.why" :key="w.text">
              {{ w.text }}<span v-if="exact" class="exact small soft">{{ w.exact }}</span>
            </li>
          </ol>
          <AButton type="link" size="small" @click="exact = !exact">
            {{ exact ? 'plain words only' : 'show the exact terms' }}
          </AButton>
          <template v-if="page.parts.length">
            <h2>What is in the bag</h2>
            <DataTable :rows="page.parts" :columns="BAG" :by="(p) => `${p.year}${p.variety}`">
              <template #what="{ row }">{{ row.variety }}, {{ row.year }}</template>
              <template #share="{ row }">{{ percent(row.share) }} of it</template>
              <template #now="{ row }">{{ believed(row.now) }}</template>
            </DataTable>
          </template>
          <template v-if="page.where_it_went.length > 1">
            <h2>Where its life went</h2>
            <DataTable :rows="page.where_it_went" :columns="WENT" by="from_s">
              <template #from="{ row }"
                ><span :title="iso(row.from_s)">{{ day(row.from_s, true) }}</span></template
              >
              <template #place="{ row }"
                >{{ row.place
                }}<span v-if="!row.known" class="soft"> (supposed: nobody said so)</span></template
              >
              <template #days="{ row }">{{ Math.round(row.days) }} days</template>
              <template #points="{ row }">{{ written((100 * row.points).toFixed(1)) }} points</template>
            </DataTable>
          </template>
          <template v-if="!pieces">
            <h2>What would change it</h2>
            <LotMoves :page @move="move" />
          </template>
        </div>
        <div>
          <h2 v-if="!pieces">Tests</h2>
          <p v-if="g.advice.wanted" class="act">
            Test {{ g.advice.seeds }} seeds by {{ day(g.advice.due_s ?? 0) }}.
          </p>
          <p v-if="!pieces" class="soft">{{ g.advice.why }}</p>
          <DataTable v-if="page.tests.length" :rows="page.tests" :columns="TESTS" by="trial_id">
            <template #code="{ row }"
              ><span class="code">{{ row.code }}</span></template
            >
            <template #sown="{ row }"
              ><span :title="iso(row.sown_s)">{{ day(row.sown_s, true) }}</span></template
            >
            <template #up="{ row }"
              ><template v-if="row.n"
                >{{ row.up }} of {{ row.n }} {{ row.closed ? 'alive' : 'so far' }}</template
              ></template
            >
            <template #says="{ row }"
              ><span class="small soft">{{ row.says }}</span></template
            >
          </DataTable>
          <LotBalance
            :balance="page.balance"
            :seeds-per-g="line.seeds_per_g"
            :use="line.intended_use"
            :unit="line.unit"
            @ask="asking = $event"
          />
          <template v-if="page.family.relatives.length > 1">
            <h2>Family</h2>
            <FamilyTree :family="page.family" />
          </template>
          <p v-if="page.family.giver" class="soft">A gift from {{ page.family.giver }}.</p>
          <LabelPreview :label="page.label" :lot-id="line.lot_id" />
          <h2>Cautions and packet</h2>
          <ul>
            <li v-for="c in page.cautions" :key="c" class="caution">{{ c }}</li>
            <li v-for="p in page.packet" :key="p" class="soft">{{ p }}</li>
            <li v-for="e in page.events" :key="e" class="soft">{{ e }}</li>
            <li v-if="line.note" class="soft">{{ line.note }}</li>
          </ul>
          <h2>History</h2>
          <LotHistory :history="page.history" />
        </div>
      </div>

      <LotSheets v-model:asking="asking" :page />
    </template>
  </section>
</template>

<style scoped>
.guide {
  background: var(--warm-wash);
  border-left: 4px solid var(--warm);
  padding: 8px 12px;
  margin-bottom: 10px;
}
.guide ol {
  margin: 4px 0 0;
  padding-left: 20px;
}
.headline {
  display: flex;
  gap: 34px;
  flex-wrap: wrap;
  margin-bottom: 12px;
}
.figure {
  font: 700 22px var(--serif);
}
.plot {
  display: grid;
  grid-template-columns: 44px minmax(0, 1fr);
  gap: 6px;
}
.scale {
  display: flex;
  flex-direction: column;
  justify-content: space-between;
  height: 120px;
  text-align: right;
}
.years {
  display: grid;
  overflow: hidden;
  grid-template-columns: repeat(10, minmax(0, 1fr));
  border-top: 1px solid var(--hair);
}
.legend {
  margin: 6px 0 0;
}
.columns {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 28px;
  margin-top: 16px;
}
.columns :deep(h2) {
  margin: 14px 0 6px;
}
.why {
  padding-left: 20px;
  margin: 0;
}
.why li {
  margin-bottom: 4px;
}
.exact {
  display: block;
}
ul {
  padding-left: 18px;
  margin: 0;
}
.caution {
  color: var(--warm);
}
@media (max-width: 760px) {
  .columns {
    grid-template-columns: minmax(0, 1fr);
  }
  .years span:nth-child(even) {
    visibility: hidden;
  }
  .headline {
    gap: 12px;
    flex-direction: column;
  }
}
.next {
  margin: 4px 0 10px;
}
.next strong {
  max-width: 60%;
}
</style>
