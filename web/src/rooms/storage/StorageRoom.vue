<script setup lang="ts">
import { computed, defineAsyncComponent, inject, nextTick, ref, watch, type Ref } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { api, sendFile, take, type Box } from '../../api/client'
import { useAct, useChart, useHome, useLots, useShelves } from '../../api/queries'
import { day, percent, useUnits } from '../../parts/words'
import AddPlace from './AddPlace.vue'

const ClimateChart = defineAsyncComponent(() => import('./ClimateChart.vue'))
const shelves = useShelves()
const lots = useLots()
const home = useHome()
const units = useUnits()
const act = useAct()
const route = useRoute()
const router = useRouter()
const chosen = ref<number | null>(route.query.node ? Number(route.query.node) : null)
const span = ref(365)
const nowS = computed(() => Date.parse(home.data.value?.today ?? new Date().toISOString()) / 1000)
const fromS = computed<number | undefined>(() => nowS.value - span.value * 86_400)
const chart = useChart(chosen, fromS)
const adding = ref(false)
const newAsked = inject<Ref<number>>('newAsked')
watch(newAsked!, () => (adding.value = true))
watch(
  () => route.query.node,
  (n) => n && (chosen.value = Number(n)),
)
const all = computed(() => (shelves.data.value ?? []).flatMap((s) => [s.place, ...s.boxes]))
const box = computed(() => all.value.find((b) => b.node_id === chosen.value))
const inside = computed(() => (lots.data.value ?? []).filter((l) => l.node_id === chosen.value))
const hurting = computed(() => all.value.filter((b) => b.hurting))
watch(
  shelves.data,
  () => {
    if (chosen.value === null)
      chosen.value =
        hurting.value[0]?.node_id ?? all.value.find((b) => b.lots)?.node_id ?? all.value[0]?.node_id ?? null
  },
  { immediate: true },
)

const temperature = ref('')
const humidity = ref('')
const low = ref('')
const high = ref('')
const readOn = ref('')
const more = ref(false)
const dial = ref<HTMLInputElement | null>(null)
async function choose(b: Box) {
  chosen.value = b.node_id
  router.replace({ query: { node: b.node_id } })
  await nextTick()
  dial.value?.focus()
}
const number = (text: string) => (text.trim() === '' ? null : Number(text.replace(',', '.')))
async function log() {
  if (!box.value) return
  const id = box.value.node_id
  const said = [
    temperature.value && `${temperature.value} ${units.unit.value}`,
    humidity.value && `${humidity.value} %`,
  ]
    .filter(Boolean)
    .join(', ')
  const done = await act.run(`Read ${box.value.name}: ${said}`, () =>
    take(
      api.POST('/api/storage/nodes/{node_id}/readings', {
        params: { path: { node_id: id } },
        body: {
          temperature: number(temperature.value),
          humidity_pct: number(humidity.value),
          t_min: number(low.value),
          t_max: number(high.value),
          at_s: readOn.value ? Date.parse(`${readOn.value}T12:00`) / 1000 : null,
        },
      }),
    ),
  )
  if (done) temperature.value = humidity.value = low.value = high.value = readOn.value = ''
}
async function event(kind: 'opened' | 'gone_through' | 'sealed') {
  if (!box.value) return
  const id = box.value.node_id
  await act.run(`${box.value.name}: ${kind.replace('_', ' ')}`, () =>
    take(
      api.POST('/api/storage/nodes/{node_id}/events', {
        params: { path: { node_id: id } },
        body: { kind, note: '' },
      }),
    ),
  )
}
async function upload(e: Event) {
  const input = e.target as HTMLInputElement
  const file = input.files?.[0]
  if (!file || !box.value) return
  const id = box.value.node_id
  await act.run(`Took in ${file.name}`, () => sendFile(`/api/storage/nodes/${id}/readings/file`, file))
  input.value = ''
}
/** The bar of a shelf: full at eight times a steady bedroom; a tick at one. */
const bar = (speed: number) => `${Math.min(100, (100 * Math.log2(1 + speed)) / Math.log2(9))}%`
const tick = `${100 / Math.log2(9)}%`
const SOURCES: Record<string, string> = {
  logged: 'logger',
  bridged: 'read now and then',
  usual: 'not read: a guess',
}
</script>

<template>
  <section>
    <div class="lead">
      <h1>Storage</h1>
      <span v-if="all.length">
        <span class="soft"
          >{{ all.filter((b) => b.role === 'container').length }} containers,
          {{ shelves.data.value?.length }} places.
        </span>
        <span v-if="hurting.length" class="act"
          >{{ hurting.length === 1 ? 'One is' : `${hurting.length} are` }} costing you seed.</span
        >
      </span>
      <span class="spring" />
      <button class="btn" type="button" @click="adding = true">Add a place or container <kbd>n</kbd></button>
    </div>
    <template v-if="shelves.isPending.value"><div v-for="i in 6" :key="i" class="skeleton" /></template>
    <div v-else-if="shelves.isError.value" class="card">{{ shelves.error.value?.message }}</div>
    <div v-else-if="!all.length" class="card empty">
      <h2>Where does the seed live?</h2>
      <p>
        Name the larder, the drawer, the tin. Without a single reading the forecast then leans on the usual
        climate of such a place.
      </p>
      <button class="btn" type="button" @click="adding = true">Add the first place</button>
    </div>
    <div v-else class="split">
      <div>
        <div v-for="s in shelves.data.value" :key="s.place.node_id" class="shelf">
          <button
            class="place"
            type="button"
            :class="{ on: chosen === s.place.node_id }"
            @click="choose(s.place)"
          >
            <strong class="name">{{ s.place.name }}</strong>
            <span class="small soft"
              >{{ units.temperature(s.place.now_temperature_c) }}, {{ percent(s.place.now_erh) }}</span
            >
            <span class="small soft">{{ SOURCES[s.place.source] }}</span>
          </button>
          <div class="boxes">
            <button
              v-for="b in s.boxes"
              :key="b.node_id"
              type="button"
              class="box"
              :class="{ on: chosen === b.node_id, hurting: b.hurting }"
              :aria-pressed="chosen === b.node_id"
              @click="choose(b)"
            >
              <span class="name">{{ b.name }}</span>
              <strong>{{ units.temperature(b.now_temperature_c) }}</strong>
              <span>{{ percent(b.now_erh) }} · {{ b.dryness }}</span>
              <span class="small soft"
                >{{ b.lots }} {{ b.lots === 1 ? 'lot' : 'lots'
                }}<template v-if="b.source === 'usual'"> · a guess</template></span
              >
              <span class="bar" :title="b.says"
                ><i :style="{ width: bar(b.speed) }" :class="{ fast: b.speed > 1.25 }" /><b
                  :style="{ left: tick }"
              /></span>
              <span class="visually-hidden">ageing speed {{ b.speed.toFixed(1) }}</span>
            </button>
            <span v-if="!s.boxes.length" class="soft small none">nothing stands here</span>
          </div>
        </div>
        <p class="small soft">
          Bar: how fast seed ages there over a year. The tick is a steady bedroom at 18 °C and 50 %; a full
          bar is eight times that; hatched is faster than the tick.
        </p>
      </div>

      <aside v-if="box" class="side">
        <h2>{{ box.path }}</h2>
        <p class="soft">
          {{ box.kind_words }} · {{ box.lots }} lots<template v-if="box.capacity_lots">
            of {{ box.capacity_lots }}</template
          >
          ·
          <template v-if="box.dial_at_s"
            >last read <span>{{ day(box.dial_at_s) }}</span>: {{ units.temperature(box.dial_temperature_c) }},
            {{ box.dial_erh === null || box.dial_erh === undefined ? '–' : percent(box.dial_erh) }}</template
          >
          <template v-else>never read</template>
        </p>
        <p>
          <strong>{{ box.says.charAt(0).toUpperCase() + box.says.slice(1) }}</strong>
          <span class="soft"
            >(like a steady {{ units.temperature(box.steady_temperature_c) }} and
            {{ percent(box.steady_erh) }}).</span
          >
        </p>
        <form class="log card" @submit.prevent="log">
          <div class="row">
            <label class="field"
              >{{ units.unit.value
              }}<input
                ref="dial"
                v-model="temperature"
                inputmode="decimal"
                :aria-label="`temperature, ${units.unit.value}`"
            /></label>
            <label class="field"
              >% humidity<input v-model="humidity" inputmode="decimal" aria-label="humidity, per cent"
            /></label>
            <button
              class="btn"
              type="submit"
              :disabled="act.busy.value || (!temperature.trim() && !humidity.trim())"
            >
              Log the dial
            </button>
          </div>
          <div v-if="more" class="row">
            <label class="field">lowest since reset<input v-model="low" inputmode="decimal" /></label>
            <label class="field">highest since reset<input v-model="high" inputmode="decimal" /></label>
            <label class="field">read on<input v-model="readOn" type="date" /></label>
          </div>
          <div class="row small">
            <button v-if="!more" class="btn link" type="button" @click="more = true">min, max, day</button>
            <button class="btn link" type="button" @click="event('opened')">just opened</button>
            <button class="btn link" type="button" @click="event('gone_through')">gone through</button>
            <label class="btn link file"
              >logger file<input type="file" accept=".csv,text/csv,text/plain" @change="upload"
            /></label>
          </div>
        </form>
        <div class="row spans small" role="group" aria-label="Span">
          <button
            v-for="d in [30, 90, 365, 1100]"
            :key="d"
            class="btn link"
            type="button"
            :aria-pressed="span === d"
            @click="span = d"
          >
            {{ d === 1100 ? '3 years' : d === 365 ? 'a year' : `${d} days` }}
          </button>
        </div>
        <template v-if="chart.data.value">
          <ClimateChart :chart="chart.data.value" />
          <p>
            <strong>{{ chart.data.value.said }}</strong>
          </p>
        </template>
        <div v-else class="skeleton tall" />
        <template v-if="inside.length">
          <h3>Inside</h3>
          <ul class="lots">
            <li v-for="l in inside" :key="l.lot_id">
              <RouterLink :to="`/stock/${l.lot_id}`"
                ><span class="code">{{ l.code }}</span> {{ l.variety }}</RouterLink
              >
              <span class="soft"> {{ l.kind_name }}</span> · {{ percent(l.glance.now.mid) }}
              <span class="small" :class="l.urgency >= 2 ? 'act' : 'soft'">{{ l.next_act }}</span>
            </li>
          </ul>
        </template>
      </aside>
    </div>
    <AddPlace :open="adding" :all="all" @close="adding = false" />
  </section>
</template>

<style scoped>
.spring {
  flex: 1;
}
.empty {
  max-width: 560px;
}
.split {
  display: grid;
  grid-template-columns: minmax(0, 1fr) 410px;
  gap: 24px;
}
.shelf {
  display: grid;
  grid-template-columns: 140px 1fr;
  gap: 10px;
  border-bottom: 5px solid var(--shelf);
  padding-top: 14px;
}
.place {
  font: inherit;
  color: inherit;
  text-align: left;
  background: none;
  border: 0;
  cursor: pointer;
  display: flex;
  flex-direction: column;
  padding: 4px 6px 8px;
}
.place.on {
  background: var(--paper);
}
.boxes {
  display: flex;
  flex-wrap: wrap;
  gap: 10px;
  align-items: flex-end;
}
.none {
  padding-bottom: 10px;
}
.box {
  font: inherit;
  color: inherit;
  text-align: left;
  width: 132px;
  background: var(--page);
  border: 1px solid var(--ink);
  border-bottom: 0;
  border-radius: 4px 4px 0 0;
  padding: 6px 9px 8px;
  display: flex;
  flex-direction: column;
  cursor: pointer;
  line-height: 1.3;
}
.box.hurting {
  background: var(--act-wash);
  border-color: var(--act);
}
.box.on {
  outline: 2px solid var(--act);
  outline-offset: 1px;
}
.bar {
  position: relative;
  display: block;
  height: 8px;
  background: var(--hair-soft);
  margin-top: 4px;
}
.bar i {
  display: block;
  height: 100%;
  background: var(--living);
}
.bar i.fast {
  background: repeating-linear-gradient(90deg, var(--warm) 0 4px, transparent 4px 6px);
}
.bar b {
  position: absolute;
  top: -2px;
  bottom: -2px;
  width: 1px;
  background: var(--ink);
}
.side {
  border-left: 1px solid var(--hair);
  padding-left: 20px;
  min-width: 0;
}
.log input {
  width: 92px;
}
.log .row {
  align-items: flex-end;
}
.file input {
  display: none;
}
.spans {
  margin-top: 10px;
}
.spans [aria-pressed='true'] {
  font-weight: 800;
  text-decoration: none;
}
.tall {
  height: 330px;
}
.lots {
  list-style: none;
  padding: 0;
  margin: 6px 0;
}
.lots li {
  border-top: 1px solid var(--hair-soft);
  padding: 4px 0;
}
@media (max-width: 1000px) {
  .split {
    grid-template-columns: 1fr;
  }
  .side {
    border: 0;
    padding: 0;
    order: -1;
  }
}
@media (max-width: 760px) {
  .shelf {
    grid-template-columns: 1fr;
  }
  .box {
    width: calc(50% - 5px);
  }
  .log input {
    width: 100px;
  }
}
</style>
