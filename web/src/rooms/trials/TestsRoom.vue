<script setup lang="ts">
import { computed, ref } from 'vue'
import type { Schemas } from '../../api/client'
import { useBench } from '../../api/queries'
import { useNew } from '../../parts/keys'
import { useAxis } from '../../parts/axis'
import type { Column } from '../../parts/DataTable.vue'
import { useSheet } from '../../parts/sheets'
import { believed, day, likely, middle, word } from '../../parts/words'
import BenchPlan from './BenchPlan.vue'
import CountCurve from './CountCurve.vue'
import CountPad from './CountPad.vue'
import ForecastBar from './ForecastBar.vue'
import { dayOf } from './days'
import StartTest from './StartTest.vue'
import RoomHead from '../../parts/RoomHead.vue'

const bench = useBench()
/** `count:12` or `test:7`: which test is counted, of which packet one is started. */
const sheet = useSheet()
const about = computed(() => {
  const [what, id] = sheet.value.split(':')
  return { what, id: Number(id) }
})
const counting = computed(() =>
  about.value.what === 'count'
    ? bench.data.value?.running.find((t) => t.trial_id === about.value.id)
    : undefined,
)
const starting = computed(() =>
  about.value.what === 'test'
    ? bench.data.value?.wanted.find((w) => w.line.lot_id === about.value.id)
    : undefined,
)
useNew('start the first test that is wanted', () => {
  const first = bench.data.value?.wanted[0]
  if (first) sheet.value = `test:${first.line.lot_id}`
})
/** What no food, pick or line asks for waits behind its number. */
const rest = ref(false)
const deserving = computed(() => {
  const all = bench.data.value?.wanted ?? []
  const named = all.filter((w) => w.wanted_for.length)
  return rest.value || !named.length ? all : named
})
const folded = computed(() => (bench.data.value?.wanted.length ?? 0) - deserving.value.length)
const { axis, nowS } = useAxis()
const level = computed(() => axis.value.level)
const LATELY_S = 21 * 86400
const lately = computed(() =>
  (bench.data.value?.closed ?? []).filter((c) => nowS.value - c.closed_s < LATELY_S).slice(0, 6),
)
const left = computed(() =>
  Object.entries(bench.data.value?.untested_reasons ?? {}).filter(([k]) => k !== 'running'),
)
const WANTED: Column<Schemas['Wanted']>[] = [
  { key: 'lot', title: 'packet', by: (w) => w.line.code },
  { key: 'strip', title: 'strip', width: 260 },
  { key: 'sowing', title: 'at its next sowing', by: (w) => w.line.glance.at_sowing?.mid },
  { key: 'seeds', title: 'how many', by: (w) => w.seeds },
  { key: 'due', title: 'start by', by: (w) => w.due_s },
  { key: 'do' },
]
const CLOSED: Column<Schemas['ClosedTest']>[] = [
  { key: 'code', title: 'test' },
  { key: 'lot', title: 'packet', by: (c) => c.lot_code },
  { key: 'result', title: 'result', small: 'result', by: (c) => c.up / c.n },
  { key: 'before', title: 'thought before', small: 'before' },
  { key: 'after', title: 'thought now', small: 'now', by: (c) => c.after.mid },
  { key: 'verdict', title: 'so' },
]
</script>

<template>
  <section>
    <RoomHead title="Tests">
      <span v-if="bench.data.value" class="soft"
        >{{ bench.data.value.running.length }} on the bench, {{ bench.data.value.wanted.length }} deserve
        one.</span
      >
      <RouterLink to="/tests/right" class="right">Was it right?</RouterLink>
    </RoomHead>
    <RoomState :query="bench" />
    <template v-if="bench.data.value">
      <h2>On the bench</h2>
      <p v-if="!bench.data.value.running.length" class="soft">
        Nothing is being tested. Below stands what deserves it.
      </p>
      <p v-else class="small soft">
        Shaded: how many would usually be up by then, from what is believed of the packet. Ring: a count.
        Solid line: today. Dotted: the last count day.
      </p>
      <div class="bench tiles">
        <article
          v-for="t in bench.data.value.running"
          :key="t.trial_id"
          class="card running"
          :data-test="t.code"
        >
          <div class="row top">
            <strong class="code">{{ t.code }}</strong>
            <RouterLink :to="`/stock/${t.line.lot_id}`" class="name">{{ t.line.variety }}</RouterLink>
            <span class="soft">{{ t.line.kind_name }} {{ t.line.code }}</span>
          </div>
          <p>
            {{ dayOf(t) }}:
            <template v-if="t.counted_days.length">
              <strong>{{ t.up }} of {{ t.n }} up</strong>, {{ t.waiting }} not yet
            </template>
            <strong v-else>{{ t.n }} seeds, not looked at yet</strong> ·
            <span class="soft">{{ t.verdict }}</span>
          </p>
          <CountCurve :test="t" />
          <p>
            So far {{ believed(t.now) }}.
            <span class="soft">{{ t.hints.join(' ') }}</span>
          </p>
          <AButton type="primary" @click="sheet = `count:${t.trial_id}`">Count</AButton>
        </article>
      </div>

      <template v-if="lately.length">
        <h2>Told lately</h2>
        <div class="tiles">
          <article v-for="c in lately" :key="c.trial_id" class="card told" :data-told="c.code">
            <div class="row top">
              <strong class="code">{{ c.code }}</strong>
              <RouterLink :to="`/stock/${c.lot_id}`" class="name">{{ c.variety }}</RouterLink>
              <span class="soft">{{ c.lot_code }}, {{ day(c.closed_s) }}</span>
            </div>
            <p class="verdict">{{ c.verdict.says }}</p>
            <ForecastBar :before="c.before" :after="c.after" :share="c.n ? c.up / c.n : undefined" :level />
            <p class="small">
              <template v-if="c.before">Before {{ believed(c.before) }}; </template>
              now {{ believed(c.after) }}.
            </p>
            <p v-if="c.verdict.surprise" class="small">{{ c.verdict.surprise }}</p>
            <p v-for="x in c.verdict.changed" :key="x" class="small">{{ x }}</p>
            <p class="small soft">{{ c.verdict.by_itself }} {{ c.verdict.seedlings }}</p>
          </article>
        </div>
      </template>

      <template v-if="bench.data.value.plan.evenings.length || bench.data.value.plan.left.length">
        <h2>Evenings at the bench</h2>
        <BenchPlan :plan="bench.data.value.plan" />
      </template>
      <h2>Deserve a test</h2>
      <p class="soft">
        Only where the answer can change what you do; what follows each count stands beside it.
      </p>
      <DataTable
        v-if="bench.data.value.wanted.length"
        class="wanted"
        :rows="deserving"
        :columns="WANTED"
        :by="(w) => w.line.lot_id"
        :data-of="(w) => ({ 'data-code': w.line.code })"
      >
        <template #lot="{ row }">
          <span class="code">{{ row.line.code }}</span>{{ ' ' }}
          <RouterLink :to="`/stock/${row.line.lot_id}`" class="name">{{ row.line.variety }}</RouterLink>{{
            ' '
          }}
          <span class="soft">{{ row.line.kind_name }}</span>
          <div v-if="row.wanted_for.length" class="small soft">for {{ row.wanted_for.join(', ') }}</div>
        </template>
        <template #strip="{ row }">
          <FadeStrip :glance="row.line.glance" :axis :height="24" />
        </template>
        <template #sowing="{ row }">
          <template v-if="row.line.glance.at_sowing"
            ><strong>{{ middle(row.line.glance.at_sowing.mid, row.line.glance.at_sowing.step) }}</strong
            >, <span class="whole">{{ likely(row.line.glance.at_sowing) }}</span></template
          >
        </template>
        <template #seeds="{ row }"
          >{{ row.seeds }} seeds
          <Why
            :lines="
              [...row.then, row.stages, row.saves, row.beside, row.why]
                .filter(Boolean)
                .map((text) => ({ text }))
            "
          />
          <div class="small soft">{{ row.ends }}</div></template
        >
        <template #due="{ row }">{{ row.due_s <= nowS + 86400 ? 'now' : day(row.due_s) }}</template>
        <template #do="{ row }">
          <AButton @click="sheet = `test:${row.line.lot_id}`">Start</AButton>
        </template>
      </DataTable>
      <p v-else class="soft">No packet needs one now.</p>
      <AButton v-if="folded || rest" type="link" size="small" :aria-expanded="rest" @click="rest = !rest">
        {{ rest ? 'only what this year asks for' : `and ${folded} more that no food, pick or line asks for` }}
      </AButton>
      <p v-if="left.length" class="small soft">
        Left alone:
        <template v-for="([k, n], i) in left" :key="k"
          >{{ i ? ', ' : '' }}{{ n }} {{ word('untested', k) || k }}</template
        >.
      </p>

      <template v-if="bench.data.value.closed.length">
        <h2>Closed this year</h2>
        <DataTable :rows="bench.data.value.closed.slice(0, 12)" :columns="CLOSED" by="trial_id">
          <template #code="{ row }"
            ><span class="code">{{ row.code }}</span></template
          >
          <template #lot="{ row }"
            ><RouterLink :to="`/stock/${row.lot_id}`"
              >{{ row.lot_code }} {{ row.variety }}</RouterLink
            ></template
          >
          <template #result="{ row }"
            >{{ row.up }} of {{ row.n }} <span class="soft">on {{ day(row.closed_s, true) }}</span></template
          >
          <template #before="{ row }"
            ><span v-if="row.before" class="soft">{{ believed(row.before) }}</span></template
          >
          <template #after="{ row }">{{ believed(row.after) }}</template>
          <template #verdict="{ row }"
            >{{ row.verdict.todo }}
            <Why
              :lines="
                [row.verdict.by_itself, row.verdict.surprise, ...row.verdict.changed]
                  .filter(Boolean)
                  .map((text) => ({ text }))
              "
          /></template>
        </DataTable>
      </template>
    </template>
    <CountPad v-if="counting" :key="counting.trial_id" :test="counting" @close="sheet = ''" />
    <StartTest
      v-if="starting"
      :key="starting.line.lot_id"
      :lot-id="starting.line.lot_id"
      :name="`${starting.line.code} ${starting.line.variety}`"
      :then="[...starting.then, starting.stages].filter(Boolean)"
      @close="sheet = ''"
    />
  </section>
</template>

<style scoped>
h2 {
  margin: 14px 0 6px;
}
.running p,
.told p {
  margin: 6px 0;
}
.told .verdict {
  font: 600 16px/1.35 var(--serif);
}
.right {
  margin-left: auto;
}
</style>
