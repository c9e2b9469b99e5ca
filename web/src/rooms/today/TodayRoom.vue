<script setup lang="ts">
import { computed, ref } from 'vue'
import { api, take, type Proposal } from '../../api/client'
import { useAct, useHome, useToday } from '../../api/queries'
import { day, iso, many } from '../../parts/words'
import FirstSteps from './FirstSteps.vue'
import JobLine from './JobLine.vue'

const today = useToday()
const home = useHome()
const act = useAct()
const data = computed(() => today.data.value)
const nowS = computed(() => Date.parse(home.data.value?.today ?? new Date().toISOString()) / 1000)
const PLACES = ['house', 'cold store', 'greenhouse', 'garden']
const byPlace = computed(() =>
  PLACES.map((place) => ({ place, jobs: (data.value?.jobs ?? []).filter((j) => j.where === place) })).filter(
    (g) => g.jobs.length,
  ),
)
const fresh = computed(() => data.value && !data.value.lots && !data.value.jobs.length)
const showLater = ref(false)
const later = computed(() =>
  [...(data.value?.later ?? [])].sort((a, b) => (a.due_s ?? 9e12) - (b.due_s ?? 9e12)),
)
const ups = ref<Record<number, string>>({})
async function count(id: number, settled: boolean, name: string) {
  const up = Number(ups.value[id])
  if (!ups.value[id]?.trim() || !Number.isInteger(up) || up < 0) return
  await act.run(`${name}: ${up} up`, () =>
    take(
      api.POST('/api/sowings/{sowing_id}/counts', {
        params: { path: { sowing_id: id } },
        body: { up, settled, on: '' },
      }),
    ),
  )
}
const reopen = (p: Proposal) =>
  act.run(`${p.title}: open again`, () =>
    take(api.PUT('/api/jobs', { body: { origin_key: p.origin_key, state: 'open' } })),
  )
const date = computed(() =>
  new Date(nowS.value * 1000).toLocaleDateString('en-GB', {
    weekday: 'long',
    day: 'numeric',
    month: 'long',
    timeZone: 'UTC',
  }),
)
</script>

<template>
  <section>
    <div class="lead">
      <h1>Today</h1>
      <span class="soft">{{ date }}</span>
      <span v-if="data && !fresh" class="soft">{{
        data.jobs.length
          ? `${many(data.jobs.length, 'thing')} in the coming fortnight.`
          : 'Nothing presses in the coming fortnight.'
      }}</span>
    </div>
    <template v-if="today.isPending.value"><div v-for="i in 6" :key="i" class="skeleton" /></template>
    <div v-else-if="today.isError.value" class="card">{{ today.error.value?.message }}</div>
    <FirstSteps
      v-else-if="data && (fresh || !home.data.value?.household.settled)"
      :lots="data.lots"
      :foods="data.foods"
    />
    <div v-if="data && !fresh" class="split">
      <div>
        <div v-for="g in byPlace" :key="g.place">
          <h2 class="group">{{ g.place.charAt(0).toUpperCase() + g.place.slice(1) }}</h2>
          <JobLine
            v-for="j in g.jobs"
            :key="j.origin_key"
            :job="j"
            :now-s="nowS"
            :people="home.data.value?.people ?? []"
          />
        </div>
        <template v-if="later.length">
          <h2 class="group">In the weeks after</h2>
          <JobLine
            v-for="j in showLater ? later : later.slice(0, data.jobs.length > 6 ? 0 : 6)"
            :key="j.origin_key"
            :job="j"
            :now-s="nowS"
            :people="home.data.value?.people ?? []"
          />
          <button
            v-if="later.length > 6"
            class="btn link"
            type="button"
            :aria-expanded="showLater"
            @click="showLater = !showLater"
          >
            {{ showLater ? 'show fewer' : `show all ${later.length}` }}
          </button>
        </template>
      </div>
      <aside>
        <template v-if="data.hurting.length">
          <h2>What is costing seed</h2>
          <p v-for="h in data.hurting" :key="h" class="hurt">{{ h }}.</p>
          <RouterLink to="/storage" class="small">look at the shelves</RouterLink>
        </template>
        <template v-if="data.due.length">
          <h2>Sown, not yet up</h2>
          <div v-for="d in data.due" :key="d.sowing_id" class="due">
            <RouterLink :to="`/stock/${d.lot_id}`"
              ><span class="code">{{ d.code }}</span> {{ d.variety }}</RouterLink
            >
            <span class="soft">{{ d.kind_name }}, {{ d.n }} {{ d.setting }} on {{ day(d.sown_s) }}</span>
            <div :class="{ act: d.state === 'overdue' }">{{ d.state }}: {{ d.says }}</div>
            <form class="row" @submit.prevent="count(d.sowing_id, false, d.variety)">
              <input
                v-model="ups[d.sowing_id]"
                class="plain n"
                inputmode="numeric"
                :placeholder="String(d.up)"
                :aria-label="`how many of ${d.variety} are up`"
              />
              up of {{ d.n }}
              <button class="btn quiet" type="submit" :disabled="!ups[d.sowing_id]">Save</button>
              <button
                class="btn link small"
                type="button"
                :disabled="!ups[d.sowing_id]"
                @click="count(d.sowing_id, true, d.variety)"
              >
                and done watching
              </button>
            </form>
          </div>
        </template>
        <template v-if="data.settled.length">
          <h2>Settled lately</h2>
          <p v-for="s in data.settled" :key="s.origin_key" class="small">
            {{ s.title }} <span class="soft">{{ s.state }}</span>
            <button class="btn link small" type="button" @click="reopen(s)">open again</button>
          </p>
        </template>
        <template v-if="!data.foods">
          <h2>When you like</h2>
          <p class="soft">
            Name a food in <RouterLink to="/needs">Needs</RouterLink>, and the list also says what is short
            for the table.
          </p>
        </template>
        <p v-if="!data.jobs.length && !data.due.length" class="soft">
          A good evening to read a dial: <RouterLink to="/storage">Storage</RouterLink>.
        </p>
        <span class="visually-hidden">{{ iso(nowS) }}</span>
      </aside>
    </div>
  </section>
</template>

<style scoped>
.split {
  display: grid;
  grid-template-columns: minmax(0, 2.4fr) minmax(270px, 1fr);
  gap: 30px;
}
.group {
  margin: 10px 0 2px;
}
aside h2 {
  margin: 12px 0 4px;
}
.hurt {
  border-left: 3px solid var(--warm);
  padding-left: 8px;
}
.due {
  border-top: 1px solid var(--hair-soft);
  padding: 6px 0;
}
.n {
  width: 70px;
}
@media (max-width: 900px) {
  .split {
    grid-template-columns: 1fr;
  }
}
</style>
