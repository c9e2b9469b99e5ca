<script setup lang="ts">
import { computed, defineAsyncComponent, onMounted, ref, watch } from 'vue'
import { useRoute } from 'vue-router'
import { api, take } from '../../api/client'
import { useAct, useAir, useHome, useNode, useRead, type Span } from '../../api/queries'
import type { Rare } from '../../parts/More.vue'
import { useSheet } from '../../parts/sheets'
import { day, many, middle, percent, word } from '../../parts/words'
import { useWriting } from '../../parts/writing'
import SinceField from '../../parts/fields/SinceField.vue'
import { together } from '../stock/acts'
import ManyBar from '../stock/ManyBar.vue'
import { usePicks } from '../stock/picks'
import { noteEvent, putBack, takeOut } from './acts'
import AlarmList from './AlarmList.vue'
import DeviceList from './DeviceList.vue'
import DialForm from './DialForm.vue'
import DryingAdvice from './DryingAdvice.vue'
import EditNode from './EditNode.vue'
import MoveNode from './MoveNode.vue'
import ImportFile from './ImportFile.vue'
import SealCan from './SealCan.vue'
import WhatIf from './WhatIf.vue'
import RoomHead from '../../parts/RoomHead.vue'

const ClimateChart = defineAsyncComponent(() => import('./ClimateChart.vue'))
const route = useRoute()
const id = computed(() => Number(route.params.id))
const node = useNode(id)
const home = useHome()
const units = useWriting()
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

const event = (kind: string, words: string) =>
  act.runAsking(`${box.value?.name}: ${words}`, (anyway) =>
    noteEvent(id.value, kind, { on: on.value, anyway }),
  )
const out = (back: boolean) =>
  act.run(back ? `Put ${box.value?.name} back` : `Took ${box.value?.name} out`, () =>
    back ? putBack(id.value) : takeOut(id.value),
  )
const on = ref('')
const sinceWhen = ref('')
const since = (said: string) =>
  act.run(`${many(page.value?.supposed.length ?? 0, 'packet')}: there ${said}`, () =>
    together({ what: 'since', lot_ids: page.value?.supposed ?? [], since: said, anyway: false }),
  )
const sheet = useSheet()
const told = (words: string, kind: string, said = words, off = false): Rare => ({
  words,
  act: () => void event(kind, said),
  off,
})
const rare = computed<Rare[]>(() => {
  const b = box.value
  if (b?.role !== 'container') return [{ words: 'change it', act: () => void (sheet.value = 'edit') }]
  const ajar = b.closing === 'vented' || b.closing === 'breathing'
  return [
    told('gone through', 'gone_through'),
    ajar ? told('closed it', 'airtight', 'closed') : told('lid ajar', 'vented'),
    told('left open', 'breathing', 'left open', b.closing === 'breathing'),
    told('desiccant out', 'desiccant_out', 'desiccant out', b.closing !== 'desiccant'),
    { words: 'move it', act: () => void (sheet.value = 'move') },
    { words: 'open it now?', act: () => void askDew() },
    { words: 'change it', act: () => void (sheet.value = 'edit') },
  ]
})
const lots = computed(() => page.value?.lots ?? [])
const picks = usePicks(() => lots.value.map((l) => ({ ...l, variety: l.name })))
watch(id, () => picks.none())
const INSIDE = [
  { key: 'pick', width: 40 },
  { key: 'lot', title: 'packet' },
  { key: 'now', title: 'now', small: 'now' },
  { key: 'lost', title: 'lost here, of all it lost', small: 'lost here' },
]
const dew = ref('')
async function askDew() {
  const found = await take(
    api.GET('/api/storage/nodes/{node_id}/dew', { params: { path: { node_id: id.value } } }),
  )
  dew.value = found.says
}
const lotIds = computed(() => lots.value.filter((l) => l.told).map((l) => l.lot_id))
</script>

<template>
  <section>
    <RouterLink to="/storage" class="small soft">All shelves</RouterLink>
    <RoomState :query="node" />
    <template v-if="page && box">
      <RoomHead :title="box.name">
        <span class="soft">
          <span class="code">{{ box.code }}</span> · {{ box.path }} · {{ box.kind_words
          }}<template v-if="word('closing', box.closing)">, {{ word('closing', box.closing) }}</template> ·
          {{ many(box.lots, 'packet')
          }}<template v-if="box.capacity_lots"> of {{ box.capacity_lots }}</template
          ><template v-if="box.former_use">, held {{ box.former_use }} before</template>
        </span>
      </RoomHead>
      <AlarmList :alarms="page.alarms" here />
      <div v-if="page.supposed.length" class="card row since" role="group" aria-label="Since when?">
        <span>
          {{ many(page.supposed.length, 'packet') }} {{ page.supposed.length === 1 ? 'is' : 'are' }} taken to
          have lain here since {{ page.supposed.length === 1 ? 'it' : 'they' }} came, and nobody said so.
          Right?
        </span>
        <AButton type="primary" @click="since('since it came')">Since they came</AButton>
        <AButton @click="since('only from then')">Only from then</AButton>
        <SinceField v-model="sinceWhen" label="or" placeholder="since about 2023" />
        <AButton :disabled="!sinceWhen.trim()" @click="since(sinceWhen)">Say so</AButton>
      </div>
      <p v-if="page.out_since_s" class="outnow" role="status">
        Out of store since {{ day(page.out_since_s) }}.
        <AButton type="primary" @click="out(true)">Put it back</AButton>
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
            <AButton
              v-for="s in SPANS"
              :key="s.days"
              type="link"
              :aria-pressed="!zoomed && chosenDays === s.days"
              @click="((zoomed = null), (chosenDays = s.days))"
            >
              {{ s.words }}
            </AButton>
            <span class="spring" />
            <AButton type="link" @click="shift(-0.5)">earlier</AButton>
            <AButton type="link" @click="shift(0.5)">later</AButton>
          </div>
          <template v-if="read.data.value && air.data.value">
            <ClimateChart
              :read="read.data.value"
              :air="air.data.value"
              :span
              @zoom="(s: Span) => (zoomed = { from: s.from, to: Math.min(s.to, nowS) })"
            />
            <p>
              <strong>{{ air.data.value.said }}</strong>
            </p>
          </template>
          <ASkeleton v-else active :title="false" :paragraph="{ rows: 10 }" />
          <WhatIf v-if="lotIds.length" :key="id" :lot-ids :node-id="id" />
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
            <div class="row">
              <template v-if="box.role === 'container'">
                <AButton @click="event('opened', 'opened')">just opened</AButton>
                <AButton v-if="!box.is_out" @click="out(false)">took it out</AButton>
              </template>
              <More :acts="rare" :hears="`more for ${box.name}`" />
              <DayField v-if="box.role === 'container'" v-model="on" label="on" class="on" />
            </div>
            <ImportFile :node-id="id" :name="box.name" />
            <MoveNode v-if="sheet === 'move'" :box @close="sheet = ''" />
            <EditNode v-if="sheet === 'edit'" :box @close="sheet = ''" />
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
            <ManyBar :lots="picks.lots.value" :all="lots.length" @none="picks.none" @all="picks.all" />
            <DataTable :rows="lots" :columns="INSIDE" by="lot_id">
              <template #pick="{ row }">
                <ACheckbox
                  :checked="picks.chosen.value.has(row.lot_id)"
                  :aria-label="`choose ${row.code}`"
                  @change="picks.pick(row.lot_id)"
                />
              </template>
              <template #lot="{ row }">
                <RouterLink :to="`/stock/${row.lot_id}`"
                  ><span class="code">{{ row.code }}</span> {{ row.name }}</RouterLink
                >
                <span class="soft"> {{ row.kind_name }}</span>
              </template>
              <template #now="{ row }">{{
                row.kept_until_s
                  ? `till about ${day(row.kept_until_s)}`
                  : row.told
                    ? middle(row.now.mid, row.now.step)
                    : ''
              }}</template>
              <template #lost="{ row }"
                ><template v-if="row.told"
                  >{{ Math.round(100 * row.lost_here) }} of
                  {{ Math.round(100 * row.lost_all) }} points</template
                ></template
              >
            </DataTable>
          </template>
          <p v-else class="soft">No seed lies here.</p>
          <template v-if="page.holds.length">
            <h2>Stands in it</h2>
            <ul class="plainlist">
              <li v-for="b in page.holds" :key="b.node_id">
                <RouterLink :to="`/storage/${b.node_id}`">{{ b.name }}</RouterLink>
                <span class="soft"> {{ many(b.lots, 'packet') }}</span>
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
            <ul class="plainlist history">
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
