<script setup lang="ts">
import { computed, defineAsyncComponent, onMounted, ref, watch } from 'vue'
import { useRoute } from 'vue-router'
import { api, take } from '../../api/client'
import { useAct, useAir, useHome, useNode, useRead, useShelves, type Span } from '../../api/queries'
import DayField from '../../parts/DayField.vue'
import { day, many, percent, useUnits, word } from '../../parts/words'
import AlarmList from './AlarmList.vue'
import DeviceList from './DeviceList.vue'
import DialForm from './DialForm.vue'
import DryingAdvice from './DryingAdvice.vue'
import EditNode from './EditNode.vue'
import ImportFile from './ImportFile.vue'
import SealCan from './SealCan.vue'
import WhatIf from './WhatIf.vue'

const ClimateChart = defineAsyncComponent(() => import('./ClimateChart.vue'))
const route = useRoute()
const id = computed(() => Number(route.params.id))
const node = useNode(id)
const home = useHome()
const shelves = useShelves()
const units = useUnits()
const act = useAct()
const page = computed(() => node.data.value)
const box = computed(() => page.value?.box)
const nowS = computed(
  () => Math.round(Date.parse(home.data.value?.today ?? new Date().toISOString()) / 1000) + 86_400,
)
const SPANS = [
  { days: 7, words: 'a week' },
  { days: 30, words: 'a month' },
  { days: 365, words: 'a year' },
  { days: 1100, words: '3 years' },
  { days: 3653, words: '10 years' },
]
const chosenDays = ref(365)
const zoomed = ref<Span | null>(null)
const span = computed<Span>(
  () => zoomed.value ?? { from: nowS.value - chosenDays.value * 86_400, to: nowS.value },
)
watch(id, () => (zoomed.value = null))
const read = useRead(id, span)
const air = useAir(id, span)
function shift(share: number) {
  const s = span.value
  const by = Math.round((s.to - s.from) * share)
  const to = Math.min(s.to + by, nowS.value)
  zoomed.value = { from: to - (s.to - s.from), to }
}
const dial = ref<InstanceType<typeof DialForm> | null>(null)
onMounted(() => setTimeout(() => window.innerWidth > 760 && dial.value?.focus(), 50))

async function event(kind: string, words: string) {
  await act.runAsking(`${box.value?.name}: ${words}`, (anyway) =>
    take(
      api.POST('/api/storage/nodes/{node_id}/events', {
        params: { path: { node_id: id.value } },
        body: { kind, note: '', on: on.value, anyway },
      }),
    ),
  )
}
async function out(back: boolean) {
  const params = { path: { node_id: id.value } }
  const words = back ? `Put ${box.value?.name} back` : `Took ${box.value?.name} out`
  await act.run(words, () =>
    take(
      back
        ? api.POST('/api/storage/nodes/{node_id}/back', { params })
        : api.POST('/api/storage/nodes/{node_id}/out', { params, body: {} }),
    ),
  )
}
const moving = ref(false)
const on = ref('')
const target = ref<number | null>(null)
const places = computed(() =>
  (shelves.data.value ?? []).flatMap((s) => [s.place, ...s.boxes]).filter((b) => b.node_id !== id.value),
)
async function move() {
  if (target.value === null) return
  const to = places.value.find((b) => b.node_id === target.value)
  const done = await act.runAsking(`Moved ${box.value?.name} to ${to?.name}`, (anyway) =>
    take(
      api.POST('/api/storage/nodes/{node_id}/move', {
        params: { path: { node_id: id.value } },
        body: { parent_id: target.value ?? 0, on: on.value, anyway },
      }),
    ),
  )
  if (done) moving.value = false
}
const dew = ref('')
async function askDew() {
  const found = await take(
    api.GET('/api/storage/nodes/{node_id}/dew', { params: { path: { node_id: id.value } } }),
  )
  dew.value = found.says
}
const lotIds = computed(() => (page.value?.lots ?? []).map((l) => l.lot_id))
</script>

<template>
  <section>
    <RouterLink to="/storage" class="small soft">All shelves</RouterLink>
    <template v-if="node.isPending.value"><div v-for="i in 5" :key="i" class="skeleton" /></template>
    <p v-else-if="node.isError.value" class="card" role="alert">{{ node.error.value?.message }}</p>
    <template v-else-if="page && box">
      <div class="lead">
        <h1>{{ box.name }}</h1>
        <span class="soft">
          <span class="code">{{ box.code }}</span> · {{ box.path }} · {{ box.kind_words
          }}<template v-if="word('closing', box.closing)">, {{ word('closing', box.closing) }}</template> ·
          {{ many(box.lots, 'lot') }}<template v-if="box.capacity_lots"> of {{ box.capacity_lots }}</template
          ><template v-if="box.former_use">, held {{ box.former_use }} before</template>
        </span>
      </div>
      <AlarmList :alarms="page.alarms" here />
      <p v-if="page.out_since_s" class="outnow" role="status">
        Out of store since {{ day(page.out_since_s) }}.
        <button class="btn" type="button" @click="out(true)">Put it back</button>
      </p>
      <div class="split">
        <div class="main">
          <p>
            <strong>{{ box.says.charAt(0).toUpperCase() + box.says.slice(1) }}</strong>
            <span class="soft">
              (like a steady {{ units.temperature(box.steady_temperature_c) }} and
              {{ percent(box.steady_erh) }}). Now {{ units.temperature(box.now_temperature_c) }}, air at
              {{ percent(box.now_erh) }};
              <template v-if="box.lots">seed at {{ percent(box.seed_erh) }} once warm, </template
              >{{ box.dryness }}.</span
            >
          </p>
          <div class="row spans small" role="group" aria-label="Span">
            <button
              v-for="s in SPANS"
              :key="s.days"
              class="btn link"
              type="button"
              :aria-pressed="!zoomed && chosenDays === s.days"
              @click="((zoomed = null), (chosenDays = s.days))"
            >
              {{ s.words }}
            </button>
            <span class="spring" />
            <button class="btn link" type="button" @click="shift(-0.5)">earlier</button>
            <button class="btn link" type="button" @click="shift(0.5)">later</button>
          </div>
          <template v-if="read.data.value && air.data.value">
            <ClimateChart
              :read="read.data.value"
              :air="air.data.value"
              :span="span"
              @zoom="(s: Span) => (zoomed = { from: s.from, to: Math.min(s.to, nowS) })"
            />
            <p>
              <strong>{{ air.data.value.said }}</strong>
            </p>
          </template>
          <div v-else class="skeleton tall" />
          <WhatIf v-if="lotIds.length" :key="id" :lot-ids="lotIds" :node-id="id" />
        </div>
        <aside>
          <div class="card">
            <DialForm ref="dial" :node-id="id" :name="box.name" />
            <p class="small soft">
              <template v-if="box.dial_at_s"
                >Last read {{ day(box.dial_at_s) }}: {{ units.temperature(box.dial_temperature_c) }},
                {{
                  box.dial_erh === null || box.dial_erh === undefined ? '–' : percent(box.dial_erh)
                }}.</template
              >
              <template v-else>Never read: the forecast leans on the usual curve of such a place.</template>
            </p>
            <div class="row small acts">
              <template v-if="box.role === 'container'">
                <button class="btn link" type="button" @click="event('opened', 'opened')">just opened</button>
                <button v-if="!box.is_out" class="btn link" type="button" @click="out(false)">
                  took it out
                </button>
                <button class="btn link" type="button" @click="event('gone_through', 'gone through')">
                  gone through
                </button>
                <button
                  v-if="box.closing === 'vented' || box.closing === 'breathing'"
                  class="btn link"
                  type="button"
                  @click="event('airtight', 'closed')"
                >
                  closed it
                </button>
                <button v-else class="btn link" type="button" @click="event('vented', 'lid ajar')">
                  lid ajar
                </button>
                <button
                  v-if="box.closing !== 'breathing'"
                  class="btn link"
                  type="button"
                  @click="event('breathing', 'left open')"
                >
                  left open
                </button>
                <button
                  v-if="box.closing === 'desiccant'"
                  class="btn link"
                  type="button"
                  @click="event('desiccant_out', 'desiccant out')"
                >
                  desiccant out
                </button>
                <button class="btn link" type="button" @click="moving = !moving">move it</button>
                <button class="btn link" type="button" @click="askDew">open it now?</button>
              </template>
              <DayField v-model="on" label="on" class="on" />
              <ImportFile :node-id="id" :name="box.name" />
              <EditNode :key="id" :box="box" />
            </div>
            <form v-if="moving" class="row small" @submit.prevent="move">
              <label class="field"
                >to
                <select v-model="target">
                  <option v-for="b in places" :key="b.node_id" :value="b.node_id">{{ b.path }}</option>
                </select>
              </label>
              <button class="btn quiet" type="submit" :disabled="target === null || act.busy.value">
                Move it with all in it
              </button>
            </form>
            <p v-if="dew" role="status" class="small">
              <strong>{{ dew }}</strong>
            </p>
            <SealCan
              v-if="box.role === 'container' && !page.lots.length"
              :key="id"
              :node-id="id"
              :name="box.name"
            />
            <DeviceList :node-id="id" :devices="page.devices" />
          </div>
          <template v-if="page.lots.length">
            <h2>Inside</h2>
            <p class="small">{{ page.cost_says }}</p>
            <table class="plain small">
              <thead>
                <tr>
                  <th>lot</th>
                  <th>now</th>
                  <th>lost here, of all it lost</th>
                </tr>
              </thead>
              <tbody>
                <tr v-for="l in page.lots" :key="l.lot_id">
                  <td>
                    <RouterLink :to="`/stock/${l.lot_id}`"
                      ><span class="code">{{ l.code }}</span> {{ l.name }}</RouterLink
                    >
                    <span class="soft"> {{ l.kind_name }}</span>
                  </td>
                  <td class="num">{{ percent(l.now) }}</td>
                  <td>{{ Math.round(100 * l.lost_here) }} of {{ Math.round(100 * l.lost_all) }} points</td>
                </tr>
              </tbody>
            </table>
          </template>
          <p v-else class="soft">No seed lies here.</p>
          <template v-if="page.holds.length">
            <h2>Stands in it</h2>
            <ul class="plainlist">
              <li v-for="b in page.holds" :key="b.node_id">
                <RouterLink :to="`/storage/${b.node_id}`">{{ b.name }}</RouterLink>
                <span class="soft"> {{ many(b.lots, 'lot') }}</span>
              </li>
            </ul>
          </template>
          <DryingAdvice v-if="lotIds.length" :key="id" :node-id="id" :container="box.role === 'container'" />
          <details class="small">
            <summary>History and code</summary>
            <img
              :src="`/api/storage/nodes/${id}/code.svg`"
              :alt="`QR code that opens ${box.name}`"
              class="qr"
            />
            <ul class="plainlist">
              <li v-for="h in page.history" :key="h.act_id">
                <span class="soft">{{ day(h.at_s, true) }} {{ h.who }}</span> {{ h.summary }}
              </li>
            </ul>
          </details>
        </aside>
      </div>
    </template>
  </section>
</template>

<style scoped>
.split {
  display: grid;
  grid-template-columns: minmax(0, 1fr) 380px;
  gap: 24px;
}
aside {
  min-width: 0;
  display: flex;
  flex-direction: column;
  gap: 12px;
}
.spring {
  flex: 1;
}
.spans [aria-pressed='true'] {
  font-weight: 800;
  text-decoration: none;
}
.tall {
  height: 400px;
}
.acts {
  gap: 2px 6px;
}
.outnow {
  background: var(--act-wash);
  padding: 8px 12px;
}
.plainlist {
  list-style: none;
  margin: 4px 0;
  padding: 0;
}
.num {
  white-space: nowrap;
}
.qr {
  width: 120px;
  background: #fff;
}
@media (max-width: 1000px) {
  .split {
    grid-template-columns: minmax(0, 1fr);
  }
  aside {
    order: -1;
  }
}
</style>
