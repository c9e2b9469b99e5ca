<script setup lang="ts">
import { computed, reactive, ref, watch } from 'vue'
import { useRoute } from 'vue-router'
import type { Schemas } from '../../api/client'
import { useAct, useGiving, useRows } from '../../api/queries'
import ActForm from '../../parts/ActForm.vue'
import { amount, day, iso, seedsWords } from '../../parts/words'
import { dropPromise, pack as packed, promise as promised, receiveParcel, send as sent } from './acts'
import RoomHead from '../../parts/RoomHead.vue'

/** Parcels: promised, packed, sent, received; what stands with each person; what the stock is worth. */
const route = useRoute()
const room = useGiving()
const order = ref('season')
const rows = useRows(order)
const act = useAct()
const person = ref('')
const note = ref('')
const node = ref<number | null>(null)
const much = reactive<Record<number, string>>({})
watch(
  () => route.query.lots,
  (lots) => {
    for (const id of String(lots ?? '').split(',').map(Number).filter(Boolean)) much[id] ??= ''
  },
  { immediate: true },
) // prettier-ignore
const all = computed(() => rows.data.value?.rows ?? [])
const chosen = computed(() => all.value.filter((r) => r.lot_id in much))
/** Which packets go into it; how much of each is asked beside them. */
const ids = computed({
  get: () => Object.keys(much).map(Number),
  set(wanted: number[]) {
    for (const id of Object.keys(much).map(Number)) if (!wanted.includes(id)) delete much[id]
    for (const id of wanted) much[id] ??= ''
  },
})
const ready = computed(
  () => person.value.trim() && chosen.value.length && chosen.value.every((r) => much[r.lot_id]?.trim()),
)
const words = () => `Promised ${chosen.value.map((r) => r.code).join(', ')} to ${person.value}`
const call = () =>
  promised({
    person: person.value,
    lots: Object.fromEntries(chosen.value.map((r) => [r.lot_id, much[r.lot_id]!])),
    note: note.value,
  })
function made() {
  for (const r of chosen.value) delete much[r.lot_id]
  person.value = note.value = ''
}
type Parcel = Schemas['ParcelView']
const pack = (p: Parcel) =>
  act.runAsking(`Packed ${p.code} for ${p.person}`, (anyway) => packed(p.parcel_id, anyway))
const send = (p: Parcel) => act.run(`Sent ${p.code} to ${p.person}`, () => sent(p.parcel_id))
const drop = (p: Parcel) => act.run(`Took back the promise to ${p.person}`, () => dropPromise(p.parcel_id))
const receive = (file: File) => act.run(`Took in ${file.name}`, () => receiveParcel(file, node.value))
const open = computed(() =>
  (room.data.value?.parcels ?? []).filter((p) => ['promised', 'packed'].includes(p.state)),
)
const closed = computed(() =>
  (room.data.value?.parcels ?? []).filter((p) => !['promised', 'packed'].includes(p.state)),
)
const labels = (p: Parcel) => ({
  path: '/papers/labels',
  query: { lots: p.lines.map((l) => l.lot_id).join(',') },
})
</script>

<template>
  <section>
    <RoomHead title="Giving away" back="Papers" to="/papers">
      <span v-if="room.data.value" class="soft">{{ room.data.value.worth.says }}</span>
    </RoomHead>
    <div class="two-columns">
      <div>
        <h2>Pack a parcel</h2>
        <ActForm class="card" submit="Promise it" :ready="Boolean(ready)" :words :call @done="made">
          <TextField v-model="person" label="for whom" name="person" placeholder="Wenna at the ford" />
          <PacketPicker v-model="ids" label="packets" />
          <AmountField
            v-for="r in chosen"
            :key="r.lot_id"
            v-model="much[r.lot_id]!"
            :label="`${r.code} ${r.variety}, of ${seedsWords(r)}`"
            :name="r.code"
            :hears="`how much of ${r.code}`"
          />
          <TextField v-model="note" label="a word with it" name="note" />
          <template #beside
            ><span class="small soft">Nothing leaves the packets until it is packed.</span></template
          >
        </ActForm>
        <h2>A parcel came</h2>
        <p class="small soft">
          The file that came with it brings the packets in with their tests and how far they have aged.
        </p>
        <PlaceField v-model="node" label="they stand in" none="not said" />
        <FilePick words="Choose the parcel’s file" accept=".json,application/json" drop @file="receive" />
      </div>
      <div>
        <h2>On the table</h2>
        <p v-if="!open.length" class="soft">No parcel waits.</p>
        <div v-for="p in open" :key="p.parcel_id" class="card parcel">
          <div class="row">
            <strong>{{ p.code }} for {{ p.person }}</strong> <span class="soft">{{ p.state }}</span>
          </div>
          <div v-for="l in p.lines" :key="l.line_id" class="small">
            <span class="code">{{ l.code }}</span> {{ l.variety }}:
            <span class="as-said">{{ l.as_said || amount(Math.round(l.seeds)) }}</span>
          </div>
          <div class="row acts">
            <template v-if="p.state === 'promised'">
              <AButton type="primary" @click="pack(p)">Pack it</AButton>
              <AButton type="link" @click="drop(p)">take the promise back</AButton>
            </template>
            <template v-else>
              <AButton type="primary" @click="send(p)">Sent</AButton>
              <RouterLink class="btn quiet" :to="labels(p)">Labels</RouterLink>
              <a class="btn quiet" :href="`/api/papers/parcels/${p.parcel_id}/slip.pdf`" target="_blank"
                >Slip (PDF)</a
              >
              <a class="btn quiet" :href="`/api/papers/parcels/${p.parcel_id}/parcel.json`" download
                >File (JSON)</a
              >
            </template>
          </div>
        </div>
        <h2>People</h2>
        <p v-if="!room.data.value?.people.length" class="soft">Nobody yet.</p>
        <div v-for="x in room.data.value?.people" :key="x.person" class="person">
          <strong>{{ x.person }}</strong>
          <div v-if="x.promised.length" class="small">promised: {{ x.promised.join('; ') }}</div>
          <div v-if="x.sent.length" class="small">sent: {{ x.sent.join('; ') }}</div>
          <div v-if="x.received.length" class="small soft">from them: {{ x.received.join('; ') }}</div>
        </div>
        <template v-if="closed.length">
          <h2>Sent and received</h2>
          <div v-for="p in closed" :key="p.parcel_id" class="small">
            {{ p.code }} {{ p.direction === 'in' ? 'from' : 'to' }} {{ p.person }},
            <span :title="iso(p.sent_s ?? p.made_s)">{{ day(p.sent_s ?? p.made_s, true) }}</span>:
            {{ p.lines.map((l) => l.code).join(', ') }}
            <a v-if="p.direction === 'out'" :href="`/api/papers/parcels/${p.parcel_id}/parcel.json`" download
              >file</a
            >
          </div>
        </template>
      </div>
    </div>
  </section>
</template>

<style scoped>
h2 {
  margin: 12px 0 6px;
}
.parcel {
  margin-bottom: 10px;
}
.acts {
  margin-top: 8px;
}
.person {
  border-top: 1px solid var(--hair-soft);
  padding: 5px 0;
}
</style>
