<script setup lang="ts">
import { computed, inject, ref, watch, type Ref } from 'vue'
import { useRoute } from 'vue-router'
import { useLot, useUndo } from '../../api/queries'
import { useAxis } from '../../parts/axis'
import FadeStrip from '../../parts/FadeStrip.vue'
import FamilyTree from './FamilyTree.vue'
import LabelPreview from './LabelPreview.vue'
import LotActs, { type Asking } from './LotActs.vue'
import LotBalance from './LotBalance.vue'
import { day, iso, likely, percent, seedsWords, tenths, until, year } from '../../parts/words'

const route = useRoute()
const id = computed(() => Number(route.params.id))
const lot = useLot(id)
const { undo } = useUndo()
const page = computed(() => lot.data.value)
const line = computed(() => page.value?.line)
const g = computed(() => line.value?.glance)
const { level, nowS, thisYear, fromS, toS, years } = useAxis()
const acts = ref<InstanceType<typeof LotActs> | null>(null)
const asking = ref<Asking>('')
const exact = ref(false)
const newAsked = inject<Ref<number>>('newAsked')
watch(newAsked!, () => (asking.value = 'test'))
const alive = computed(() => !['dead', 'empty', 'spoilt'].includes(line.value?.verdict.standing ?? ''))
// the one thing to do next, a touch away
const nextAsk = computed(() => {
  const first = line.value?.verdict.acts[0]
  if (first === 'count') return { words: 'Count it', go: () => (asking.value = 'count') }
  if (first === 'test') return { words: 'Start the test', go: () => (asking.value = 'test') }
  if (line.value?.verdict.acts.includes('let_go'))
    return { words: 'Let it go', go: () => acts.value?.state('gone', 'let go') }
  return null
})
</script>

<template>
  <section>
    <RouterLink to="/stock" class="small">← Stock</RouterLink>
    <template v-if="lot.isPending.value"><div v-for="i in 6" :key="i" class="skeleton" /></template>
    <div v-else-if="lot.isError.value" class="card">{{ lot.error.value?.message }}</div>
    <template v-else-if="page && line && g">
      <div class="lead">
        <h1>
          <span class="code">{{ line.code }}</span> {{ line.variety }}
        </h1>
        <span class="soft"
          >{{ line.kind_name }} <i v-if="page.species">{{ page.species }}</i> · {{ seedsWords(line) }} ·
          {{ line.origin }} · {{ line.place || 'no place named'
          }}<template v-if="line.position">, {{ line.position }}</template></span
        >
        <span v-if="page.files_at" class="soft small"
          >files under {{ page.files_at.heading }}, {{ page.files_at.words }}</span
        >
      </div>
      <p class="next" :class="{ act: line.urgency >= 2 }" data-next role="status">
        <strong>{{ line.next_act }}</strong>
        <button v-if="nextAsk" class="btn" type="button" @click="nextAsk.go">
          {{ nextAsk.words }}
        </button>
      </p>
      <p v-if="line.plenty" class="soft small">{{ line.plenty }}.</p>
      <div class="row acts">
        <button class="btn quiet" type="button" @click="asking = 'test'">Start a test <kbd>n</kbd></button>
        <button class="btn quiet" type="button" @click="asking = 'count'">Count seeds</button>
        <button class="btn quiet" type="button" @click="asking = 'move'">Move</button>
        <template v-if="alive">
          <button class="btn quiet" type="button" @click="asking = 'sow'">Sow</button>
          <button class="btn quiet" type="button" @click="asking = 'pick'">Grow this year</button>
        </template>
        <button class="btn plain" type="button" @click="asking = 'split'">Split</button>
        <button class="btn plain" type="button" @click="asking = 'pour'">Pour together</button>
        <button
          v-if="line.state === 'here'"
          class="btn plain"
          type="button"
          @click="acts?.state('fetched', 'fetched')"
        >
          Fetched
        </button>
        <button v-else class="btn" type="button" @click="acts?.state('here', 'back in its place')">
          {{ line.state === 'missing' ? 'Found it' : 'Put back' }}
        </button>
        <button class="btn plain" type="button" @click="asking = 'event'">Something happened</button>
        <button class="btn plain" type="button" @click="asking = 'edit'">Change or let go</button>
      </div>

      <p v-if="line.state !== 'here'" class="act" role="status">
        {{
          line.state === 'missing'
            ? 'It could not be found where it should be.'
            : 'It was fetched and not put back yet.'
        }}
      </p>
      <div class="big card">
        <div class="headline">
          <div>
            <span class="figure">{{ percent(g.now.mid) }}</span> {{ likely(g.now) }}
            <div class="soft">
              now: {{ tenths(g.now.mid) }} come up{{ g.guess ? ', an educated guess until tested' : '' }}
            </div>
          </div>
          <div v-if="g.at_sowing && g.next_sowing_s">
            <span class="figure">{{ percent(g.at_sowing.mid) }}</span> {{ likely(g.at_sowing) }}
            <div class="soft">
              at its next sowing {{ g.sowing_setting }},
              <span :title="iso(g.next_sowing_s)">{{ day(g.next_sowing_s) }}</span>
            </div>
          </div>
          <div v-if="alive">
            <span class="figure">{{ g.good_beyond ? 'longer than can be said' : until(g) }}</span>
            <div class="soft">
              {{
                g.good_until_s && g.good_until_s < nowS
                  ? `has been below ${percent(level)} since, as likely as not`
                  : `stays above ${percent(level)} until then, as likely as not`
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
        <div class="plot">
          <div class="scale small soft" aria-hidden="true">
            <span>100 %</span><span>50</span><span>0</span>
          </div>
          <div>
            <FadeStrip
              :glance="g"
              :from-s="fromS"
              :to-s="toS"
              :now-s="nowS"
              :level="level"
              :height="120"
              large
            />
            <div class="years small soft" aria-hidden="true">
              <span v-for="y in years" :key="y">{{ y }}</span>
            </div>
          </div>
        </div>
        <p class="small soft legend">
          Dark ink: nine in ten sure of it; softer above it up to the median and the upper end of the 80 %
          range. Dotted line: {{ percent(level) }}, the level you sow at.
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
          <button class="btn link small" type="button" @click="exact = !exact">
            {{ exact ? 'plain words only' : 'show the exact terms' }}
          </button>
          <template v-if="page.parts.length">
            <h2>What is in the bag</h2>
            <table class="plain small">
              <tbody>
                <tr v-for="p in page.parts" :key="`${p.year}${p.variety}`">
                  <td>{{ p.variety }}, {{ p.year }}</td>
                  <td>{{ percent(p.share) }} of it</td>
                  <td>{{ percent(p.now.mid) }}, {{ likely(p.now) }}</td>
                </tr>
              </tbody>
            </table>
          </template>
          <template v-if="page.where_it_went.length > 1">
            <h2>Where its life went</h2>
            <table class="plain small">
              <tbody>
                <tr v-for="w in page.where_it_went" :key="w.from_s">
                  <td :title="iso(w.from_s)">{{ day(w.from_s, true) }}</td>
                  <td>{{ w.place }}</td>
                  <td>{{ Math.round(w.days) }} days</td>
                  <td>{{ (100 * w.points).toFixed(1) }} points</td>
                </tr>
              </tbody>
            </table>
          </template>
          <h2>What would change it</h2>
          <table class="plain">
            <thead>
              <tr>
                <th>if it moved now to</th>
                <th>at sowing</th>
                <th>{{ percent(level) }} until</th>
                <th />
              </tr>
            </thead>
            <tbody>
              <tr>
                <td>stays here</td>
                <td>{{ g.at_sowing ? percent(g.at_sowing.mid) : '–' }}</td>
                <td>
                  {{
                    g.good_beyond
                      ? 'longer than can be said'
                      : g.good_until_s
                        ? year(g.good_until_s)
                        : 'longer than can be said'
                  }}
                </td>
                <td />
              </tr>
              <tr v-for="e in page.elsewhere" :key="e.node_id">
                <td>
                  {{ e.name }}
                  <div v-if="e.caution" class="small act">{{ e.caution }}</div>
                </td>
                <td>{{ e.at_sowing ? percent(e.at_sowing) : '–' }}</td>
                <td>{{ e.good_until_s ? year(e.good_until_s) : 'longer than can be said' }}</td>
                <td>
                  <button
                    class="btn link"
                    type="button"
                    :aria-label="`move to ${e.name}`"
                    @click="acts?.move(e.node_id, e.name)"
                  >
                    move it
                  </button>
                </td>
              </tr>
            </tbody>
          </table>
        </div>
        <div>
          <h2>Tests</h2>
          <p v-if="g.advice.wanted" class="act">
            Test {{ g.advice.seeds }} seeds by {{ day(g.advice.due_s ?? 0) }}.
          </p>
          <p class="soft">{{ g.advice.why }}</p>
          <table v-if="page.tests.length" class="plain">
            <tbody>
              <tr v-for="t in page.tests" :key="t.trial_id">
                <td class="code">{{ t.code }}</td>
                <td :title="iso(t.sown_s)">{{ day(t.sown_s, true) }}</td>
                <td>
                  <template v-if="t.n">{{ t.up }} of {{ t.n }} {{ t.closed ? 'alive' : 'so far' }}</template>
                </td>
                <td class="small soft">{{ t.says }}</td>
              </tr>
            </tbody>
          </table>
          <LotBalance
            :balance="page.balance"
            :seeds-per-g="line.seeds_per_g"
            :use="line.intended_use"
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
          <ul class="history">
            <li v-for="h in page.history.slice(0, 12)" :key="h.act_id">
              <span class="soft" :title="iso(h.at_s)">{{ day(h.at_s, true) }}</span> {{ h.summary
              }}<span v-if="h.who" class="soft"> · {{ h.who }}</span>
              <button
                v-if="nowS - h.at_s < 90 * 86400"
                class="btn link small"
                type="button"
                @click="undo(h.act_id, h.summary)"
              >
                take back
              </button>
            </li>
          </ul>
        </div>
      </div>

      <LotActs ref="acts" v-model:asking="asking" :page="page" />
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
.acts {
  margin-bottom: 12px;
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
  grid-template-columns: repeat(10, 1fr);
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
.history {
  list-style: none;
  padding: 0;
}
@media (max-width: 760px) {
  .columns {
    grid-template-columns: minmax(0, 1fr);
  }
  .years {
    font-size: 10px;
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
  display: flex;
  gap: 12px;
  align-items: center;
  margin: 4px 0 8px;
}
</style>
