<script setup lang="ts">
import { computed, inject, ref, watch, type Ref } from 'vue'
import type { Running } from '../../api/client'
import { useBench } from '../../api/queries'
import { useAxis } from '../../parts/axis'
import FadeStrip from '../../parts/FadeStrip.vue'
import Why from '../../parts/Why.vue'
import { day, likely, percent, word } from '../../parts/words'
import CountCurve from './CountCurve.vue'
import CountPad from './CountPad.vue'
import StartTest from './StartTest.vue'

const bench = useBench()
const counting = ref<Running | null>(null)
const starting = ref<{ id: number; name: string } | null>(null)
const newAsked = inject<Ref<number>>('newAsked')
watch(newAsked!, () => {
  const first = bench.data.value?.wanted[0]
  if (first) starting.value = { id: first.line.lot_id, name: `${first.line.code} ${first.line.variety}` }
})
const { level, nowS, fromS, toS } = useAxis()
const left = computed(() =>
  Object.entries(bench.data.value?.untested_reasons ?? {}).filter(([k]) => k !== 'running'),
)
</script>

<template>
  <section>
    <div class="lead">
      <h1>Tests</h1>
      <span v-if="bench.data.value" class="soft"
        >{{ bench.data.value.running.length }} on the bench, {{ bench.data.value.wanted.length }} deserve
        one.</span
      >
    </div>
    <template v-if="bench.isPending.value"><div v-for="i in 6" :key="i" class="skeleton" /></template>
    <div v-else-if="bench.isError.value" class="card">{{ bench.error.value?.message }}</div>
    <template v-else-if="bench.data.value">
      <h2>On the bench</h2>
      <p v-if="!bench.data.value.running.length" class="soft">
        Nothing is being tested. Below stands what deserves it.
      </p>
      <p v-else class="small soft">
        Shaded: how many would usually be up by then, from what is believed of the lot. Ring: a count. Solid
        line: today. Dotted: the last count day.
      </p>
      <div class="bench">
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
            Day {{ Math.floor(t.day) }} of {{ t.days }}: <strong>{{ t.up }} of {{ t.n }} up</strong>,
            {{ t.waiting }} not yet · <span class="soft">{{ t.verdict }}</span>
          </p>
          <CountCurve :test="t" />
          <p>
            So far {{ percent(t.now.mid) }}, {{ likely(t.now) }}.
            <span class="soft">{{ t.hints.join(' ') }}</span>
          </p>
          <button class="btn" type="button" @click="counting = t">Count</button>
        </article>
      </div>

      <h2>Deserve a test</h2>
      <p class="soft">
        Only where the answer can change what you do. Batch them: those that like the same warmth share a box.
      </p>
      <table v-if="bench.data.value.wanted.length" class="plain wanted">
        <thead>
          <tr>
            <th>lot</th>
            <th>strip</th>
            <th>at its next sowing</th>
            <th>how many</th>
            <th>start by</th>
            <th />
          </tr>
        </thead>
        <tbody>
          <tr v-for="w in bench.data.value.wanted" :key="w.line.lot_id" :data-code="w.line.code">
            <td>
              <span class="code">{{ w.line.code }}</span>
              <RouterLink :to="`/stock/${w.line.lot_id}`" class="name">{{ w.line.variety }}</RouterLink>
              <span class="soft">{{ w.line.kind_name }}</span>
            </td>
            <td class="strip">
              <FadeStrip
                :glance="w.line.glance"
                :from-s="fromS"
                :to-s="toS"
                :now-s="nowS"
                :level="level"
                :height="24"
              />
            </td>
            <td>
              <template v-if="w.line.glance.at_sowing"
                ><strong>{{ percent(w.line.glance.at_sowing.mid) }}</strong
                >, {{ likely(w.line.glance.at_sowing) }}</template
              >
            </td>
            <td>
              {{ w.seeds }} seeds <Why :lines="[{ text: w.why }, { text: `It decides: ${w.decides}.` }]" />
            </td>
            <td>{{ w.due_s <= nowS + 86400 ? 'now' : day(w.due_s) }}</td>
            <td>
              <button
                class="btn quiet"
                type="button"
                @click="starting = { id: w.line.lot_id, name: `${w.line.code} ${w.line.variety}` }"
              >
                Start
              </button>
            </td>
          </tr>
        </tbody>
      </table>
      <p v-else class="soft">No lot needs one now.</p>
      <p v-if="left.length" class="small soft">
        Left alone:
        <template v-for="([k, n], i) in left" :key="k"
          >{{ i ? ', ' : '' }}{{ n }} {{ word('untested', k) || k }}</template
        >.
      </p>

      <template v-if="bench.data.value.closed.length">
        <h2>Closed this year</h2>
        <table class="plain stack">
          <thead>
            <tr>
              <th>test</th>
              <th>lot</th>
              <th>result</th>
              <th>thought before</th>
              <th>thought now</th>
            </tr>
          </thead>
          <tbody>
            <tr v-for="c in bench.data.value.closed.slice(0, 12)" :key="c.trial_id">
              <td class="code">{{ c.code }}</td>
              <td>
                <RouterLink :to="`/stock/${c.lot_id}`">{{ c.lot_code }} {{ c.variety }}</RouterLink>
              </td>
              <td data-label="result">
                {{ c.up }} of {{ c.n }} <span class="soft">on {{ day(c.closed_s, true) }}</span>
              </td>
              <td data-label="before" class="soft">
                <template v-if="c.before">{{ percent(c.before.mid) }}, {{ likely(c.before) }}</template>
              </td>
              <td data-label="now">{{ percent(c.after.mid) }}, {{ likely(c.after) }}</td>
            </tr>
          </tbody>
        </table>
      </template>
    </template>
    <CountPad
      v-if="counting"
      :key="counting.trial_id"
      :open="true"
      :test="counting"
      @close="counting = null"
    />
    <StartTest
      v-if="starting"
      :open="true"
      :lot-id="starting.id"
      :name="starting.name"
      @close="starting = null"
    />
  </section>
</template>

<style scoped>
h2 {
  margin: 14px 0 6px;
}
.bench {
  display: grid;
  grid-template-columns: repeat(auto-fill, minmax(300px, 1fr));
  gap: 14px;
}
.running p {
  margin: 6px 0;
}
.strip {
  width: 260px;
}
@media (max-width: 760px) {
  .wanted thead {
    display: none;
  }
  .wanted tr {
    display: grid;
    grid-template-columns: 1fr auto;
    border-top: 1px solid var(--hair);
    padding: 6px 0;
  }
  .wanted td {
    border: 0;
  }
  .strip {
    width: auto;
    grid-column: 1 / 3;
  }
}
</style>
