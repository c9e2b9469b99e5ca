<script setup lang="ts">
import { computed, reactive, ref, watch } from 'vue'
import { useRoute } from 'vue-router'
import { api, sendFile, take, type Schemas } from '../../api/client'
import { useAct, useGiving, useRows, useShelves } from '../../api/queries'
import { amount, day, iso, seedsWords } from '../../parts/words'

/** Parcels: promised, packed, sent, received; what stands with each person; what the stock is worth. */
const route = useRoute()
const room = useGiving()
const order = ref('season')
const rows = useRows(order)
const shelves = useShelves()
const act = useAct()
const person = ref('')
const note = ref('')
const words = ref('')
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
const found = computed(() => {
  const wanted = words.value.toLowerCase().split(/\s+/).filter(Boolean)
  if (!wanted.length) return []
  return all.value
    .filter((r) => !(r.lot_id in much))
    .filter((r) => wanted.every((w) => `${r.code} ${r.variety} ${r.kind_name}`.toLowerCase().includes(w)))
    .slice(0, 6)
})
const ready = computed(
  () => person.value.trim() && chosen.value.length && chosen.value.every((r) => much[r.lot_id]?.trim()),
)
const places = computed(() =>
  (shelves.data.value ?? []).flatMap((s) => (s.boxes.length ? s.boxes : [s.place])),
)
async function promise() {
  const lots = Object.fromEntries(chosen.value.map((r) => [r.lot_id, much[r.lot_id]!]))
  const body = { person: person.value, lots, note: note.value }
  const done = await act.run(
    `Promised ${chosen.value.map((r) => r.code).join(', ')} to ${person.value}`,
    () => take(api.POST('/api/papers/parcels', { body })),
  )
  if (!done) return
  for (const r of chosen.value) delete much[r.lot_id]
  person.value = note.value = ''
}
type Parcel = Schemas['ParcelView']
const path = (p: Parcel) => ({ params: { path: { parcel_id: p.parcel_id } } })
const pack = (p: Parcel) =>
  act.runAsking(`Packed ${p.code} for ${p.person}`, (anyway) =>
    take(api.POST('/api/papers/parcels/{parcel_id}/pack', { ...path(p), body: { anyway } })),
  )
const send = (p: Parcel) =>
  act.run(`Sent ${p.code} to ${p.person}`, () =>
    take(api.POST('/api/papers/parcels/{parcel_id}/send', path(p))),
  )
const drop = (p: Parcel) =>
  act.run(`Took back the promise to ${p.person}`, () =>
    take(api.DELETE('/api/papers/parcels/{parcel_id}', path(p))),
  )
async function receive(e: Event) {
  const input = e.target as HTMLInputElement
  const file = input.files?.[0]
  if (!file) return
  const query = node.value === null ? '' : `?node_id=${node.value}`
  await act.run(`Took in ${file.name}`, () => sendFile(`/api/papers/parcels/receive${query}`, file))
  input.value = ''
}
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
    <RouterLink to="/papers" class="small">← Papers</RouterLink>
    <div class="lead">
      <h1>Giving away</h1>
      <span v-if="room.data.value" class="soft">{{ room.data.value.worth.says }}</span>
    </div>
    <div class="columns">
      <div>
        <h2>Pack a parcel</h2>
        <form class="card" @submit.prevent="promise">
          <div class="row">
            <label class="field">for whom<input v-model="person" placeholder="Wenna at the ford" /></label>
            <label class="field">a word with it<input v-model="note" /></label>
          </div>
          <table v-if="chosen.length" class="plain">
            <tbody>
              <tr v-for="r in chosen" :key="r.lot_id">
                <td class="code">{{ r.code }}</td>
                <td>
                  {{ r.variety }} <span class="soft small">of {{ seedsWords(r) }}</span>
                </td>
                <td>
                  <input
                    v-model="much[r.lot_id]"
                    class="plain much"
                    :aria-label="`how much of ${r.code}`"
                    placeholder="40, 2 g, half left"
                  />
                </td>
                <td>
                  <button class="btn link small" type="button" @click="delete much[r.lot_id]">
                    not this
                  </button>
                </td>
              </tr>
            </tbody>
          </table>
          <input
            v-model="words"
            class="plain wide"
            type="search"
            aria-label="Add a lot"
            placeholder="add a lot: name, kind, code"
          />
          <ul class="found">
            <li v-for="r in found" :key="r.lot_id">
              <button class="btn link" type="button" @click="((much[r.lot_id] = ''), (words = ''))">
                {{ r.code }} {{ r.variety }}
              </button>
              <span class="soft small">{{ r.kind_name }}, {{ seedsWords(r) }}</span>
            </li>
          </ul>
          <button class="btn" type="submit" :disabled="!ready || act.busy.value">Promise it</button>
          <span class="small soft"> Nothing leaves the lots until it is packed.</span>
        </form>
        <h2>A parcel came</h2>
        <p class="small soft">
          The file that came with it brings the lots in with their tests and how far they have aged.
        </p>
        <div class="row">
          <label class="field"
            >they stand in<select v-model="node">
              <option :value="null">not said</option>
              <option v-for="b in places" :key="b.node_id" :value="b.node_id">{{ b.path }}</option>
            </select></label
          >
          <label class="btn quiet file"
            >Choose the parcel’s file<input type="file" accept=".json,application/json" @change="receive"
          /></label>
        </div>
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
            {{ l.as_said || amount(Math.round(l.seeds)) }}
          </div>
          <div class="row acts">
            <template v-if="p.state === 'promised'">
              <button class="btn" type="button" @click="pack(p)">Pack it</button>
              <button class="btn link" type="button" @click="drop(p)">take the promise back</button>
            </template>
            <template v-else>
              <button class="btn" type="button" @click="send(p)">Sent</button>
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
.columns {
  display: grid;
  grid-template-columns: 1.1fr 1fr;
  gap: 30px;
}
h2 {
  margin: 12px 0 6px;
}
.much {
  width: 130px;
}
.wide {
  width: 100%;
  margin: 8px 0;
}
.found {
  list-style: none;
  padding: 0;
  margin: 0 0 8px;
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
.file input {
  position: absolute;
  opacity: 0;
  width: 1px;
}
@media (max-width: 760px) {
  .columns {
    grid-template-columns: 1fr;
  }
}
</style>
