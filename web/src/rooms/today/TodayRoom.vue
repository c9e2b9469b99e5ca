<script setup lang="ts">
import { computed, ref } from 'vue'
import type { Proposal } from '../../api/client'
import { useAct, useHome, useToday } from '../../api/queries'
import { useAxis } from '../../parts/axis'
import { useNew, usePageKeys } from '../../parts/keys'
import { useSheet } from '../../parts/sheets'
import { dateWords, day, many } from '../../parts/words'
import { countUp, setJobs } from './acts'
import FirstSteps from './FirstSteps.vue'
import JobRow from './JobRow.vue'
import OwnJobForm from './OwnJobForm.vue'
import RoomHead from '../../parts/RoomHead.vue'

const today = useToday()
const home = useHome()
const act = useAct()
const sheet = useSheet()
useNew('a job of your own', () => (sheet.value = 'job'))
usePageKeys([
  ['↓ ↑', 'the next row, the one before'],
  ['Enter', 'what the row asks for'],
  ['d i m h x', 'done, in progress, move, hand to, drop'],
])
const data = computed(() => today.data.value)
const { nowS } = useAxis()
const PLACES = ['house', 'cold store', 'greenhouse', 'garden']
const byPlace = computed(() =>
  PLACES.map((place) => ({ place, rows: (data.value?.rows ?? []).filter((r) => r.where === place) })).filter(
    (g) => g.rows.length,
  ),
)
const fresh = computed(() => data.value && !data.value.lots && !data.value.jobs.length)
const showLater = ref(false)
const later = computed(() => data.value?.later_rows ?? [])
const room = computed(() => Math.max(0, 10 - (data.value?.rows.length ?? 0)))
const ups = ref<Record<number, number | null>>({})
async function count(id: number, settled: boolean, name: string) {
  const up = ups.value[id]
  if (up === null || up === undefined) return
  await act.run(`${name}: ${up} up`, () => countUp(id, up, settled))
}
const reopen = (p: Proposal) => act.run(`${p.title}: open again`, () => setJobs([p.origin_key], 'open'))
const date = computed(() =>
  dateWords(new Date(nowS.value * 1000), { weekday: 'long', day: 'numeric', month: 'long' }),
)
</script>

<template>
  <section>
    <RoomHead title="Today">
      <span class="soft">{{ date }}</span>
      <span v-if="data && !fresh" class="soft">{{
        data.jobs.length
          ? `${many(data.rows.length, 'thing')} in the coming fortnight.`
          : 'Nothing presses in the coming fortnight.'
      }}</span>
      <span class="spring" />
      <AButton v-if="data && !fresh" @click="sheet = 'job'">A job of your own <kbd>n</kbd></AButton>
    </RoomHead>
    <OwnJobForm v-if="sheet === 'job'" @close="sheet = ''" />
    <RoomState :query="today" />
    <FirstSteps
      v-if="data && (fresh || !home.data.value?.household.settled)"
      :lots="data.lots"
      :foods="data.foods"
    />
    <div v-if="data && !fresh" class="split">
      <div>
        <div v-for="g in byPlace" :key="g.place">
          <h2 class="group">{{ g.place.charAt(0).toUpperCase() + g.place.slice(1) }}</h2>
          <JobRow v-for="r in g.rows" :key="r.key" :row="r" />
        </div>
        <template v-if="later.length">
          <h2 class="group">In the weeks after</h2>
          <JobRow v-for="r in showLater ? later : later.slice(0, room)" :key="r.key" :row="r" />
          <AButton
            v-if="later.length > room"
            type="link"
            :aria-expanded="showLater"
            @click="showLater = !showLater"
          >
            {{ showLater ? 'show fewer' : `show all ${later.length}` }}
          </AButton>
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
              <Num
                :model-value="ups[d.sowing_id] ?? null"
                class="n"
                :min="0"
                whole
                :placeholder="String(d.up)"
                :aria-label="`how many of ${d.variety} are up`"
                @update:model-value="(n: number | null) => (ups[d.sowing_id] = n)"
              />
              up of {{ d.n }}
              <AButton type="primary" ghost html-type="submit" :disabled="(ups[d.sowing_id] ?? null) === null"
                >Save</AButton
              >
              <AButton
                type="link"
                size="small"
                :disabled="(ups[d.sowing_id] ?? null) === null"
                @click="count(d.sowing_id, true, d.variety)"
              >
                and done watching
              </AButton>
            </form>
          </div>
        </template>
        <template v-if="data.settled.length">
          <h2>Settled lately</h2>
          <p v-for="s in data.settled" :key="s.origin_key" class="small">
            {{ s.title }} <span class="soft">{{ s.state }}</span>
            <AButton type="link" size="small" @click="reopen(s)">open again</AButton>
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
