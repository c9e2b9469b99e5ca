<script setup lang="ts">
import { computed, reactive, ref, watch } from 'vue'
import { api, sendFile, take } from '../../api/client'
import { useAct, useActs, useHome, useShelves, useUndo } from '../../api/queries'
import { day, iso } from '../../parts/words'

const home = useHome()
const acts = useActs()
const shelves = useShelves()
const act = useAct()
const { undo } = useUndo()
const nowS = computed(() => Date.now() / 1000)
const node = ref<number | null>(null)
const places = computed(() =>
  (shelves.data.value ?? []).flatMap((s) => (s.boxes.length ? s.boxes : [s.place])),
)
const person = ref('')
const assumed = ref<string[]>([])
async function packets(e: Event) {
  const input = e.target as HTMLInputElement
  const file = input.files?.[0]
  if (!file) return
  const query = node.value === null ? '' : `?node_id=${node.value}`
  const done = await act.run(`Brought in ${file.name}`, () => sendFile(`/api/papers/packets${query}`, file))
  assumed.value = (done?.result.assumed as string[] | undefined) ?? []
  input.value = ''
}
const h = computed(() => home.data.value?.household)
const form = reactive({
  name: '',
  temperature_unit: 'C',
  sow: 70,
  confidence: 90,
  lead: 21,
  last: '',
  first: '',
  tz: '',
  code_scheme: 'letter',
  currency: '',
  locale: 'en-GB',
  address: '',
})
const dayText = (n: number | null | undefined) =>
  n ? new Date(Date.UTC(2025, 0, n)).toISOString().slice(5, 10) : ''
/** Day of the year of a month-day; what is none is sent as it was typed, so that it is refused in words. */
const dayNumber = (text: string) => {
  if (!text.trim()) return null
  const m = /^(\d{1,2})-(\d{1,2})$/.exec(text.trim())
  const at = m ? new Date(Date.UTC(2025, Number(m[1]) - 1, Number(m[2]))) : null
  if (!at || at.getUTCMonth() !== Number(m![1]) - 1) return text
  return Math.round((at.getTime() - Date.UTC(2025, 0, 1)) / 86_400_000) + 1
}
watch(
  h,
  (x) => {
    if (!x) return
    Object.assign(form, {
      name: x.name, temperature_unit: x.temperature_unit, sow: Math.round(100 * (x.sow_level ?? 0.7)), confidence: Math.round(100 * (x.confidence ?? 0.9)),
      lead: x.order_lead_days, last: dayText(x.last_frost_day), first: dayText(x.first_frost_day), tz: x.tz, code_scheme: x.code_scheme, currency: x.currency, locale: x.locale ?? 'en-GB', address: x.address,
    }) // prettier-ignore
  },
  { immediate: true },
)
const save = () =>
  act.run('Changed the household', () =>
    take(
      api.PATCH('/api/household', {
        body: {
          version: h.value?.version,
          values: {
            name: form.name, temperature_unit: form.temperature_unit, sow_level: form.sow / 100, confidence: form.confidence / 100,
            order_lead_days: form.lead, last_frost_day: dayNumber(form.last), first_frost_day: dayNumber(form.first), tz: form.tz,
            code_scheme: form.code_scheme, currency: form.currency, locale: form.locale, address: form.address,
          },
        },
      }),
    ),
  ) // prettier-ignore
async function addPerson() {
  if (
    await act.run(`Added ${person.value}`, () =>
      take(api.POST('/api/people', { body: { name: person.value } })),
    )
  )
    person.value = ''
}
</script>

<template>
  <section>
    <div class="lead">
      <h1>Papers</h1>
      <span class="soft">What goes out, what comes in, how the house is set, what was done.</span>
    </div>
    <div class="columns">
      <div>
        <h2>Print and give</h2>
        <p class="row">
          <RouterLink class="btn" to="/papers/labels">Labels, lists, cards</RouterLink>
          <RouterLink class="btn quiet" to="/papers/parcels">Giving away</RouterLink>
        </p>
        <h2>Take out</h2>
        <p class="row">
          <a class="btn quiet" href="/api/papers/stock.csv" download>The stock, to bring in again (CSV)</a>
          <a class="btn quiet" href="/api/papers/lots.csv" download>Lots with forecast (CSV)</a>
          <a class="btn quiet" href="/api/papers/readings.csv" download>Readings (CSV)</a>
          <a class="btn quiet" href="/api/papers/everything.json" download>Everything (JSON)</a>
        </p>
        <p class="small soft">
          A whole copy of the file: <code>larder backup FILE</code>. The programs’ side of all this:
          <a href="/docs">the API’s own pages</a>.
        </p>
        <h2>Bring in</h2>
        <p>
          A spreadsheet of packets, saved as CSV, as you keep it: columns such as kind, variety, year,
          quantity, from, note in any order. All of it comes in, or nothing.
        </p>
        <div class="row">
          <label class="field"
            >they stand in<select v-model="node">
              <option :value="null">not said</option>
              <option v-for="b in places" :key="b.node_id" :value="b.node_id">{{ b.path }}</option>
            </select></label
          >
          <label class="btn file"
            >Choose the file<input type="file" accept=".csv,text/csv,text/plain" @change="packets"
          /></label>
        </div>
        <div v-if="assumed.length" class="card small">
          <strong>What was assumed</strong>
          <ul>
            <li v-for="a in assumed" :key="a">{{ a }}</li>
          </ul>
        </div>
        <p class="small soft">
          A logger’s file goes to its container: <RouterLink to="/storage">Storage</RouterLink>.
        </p>
        <h2>The household</h2>
        <form class="form" @submit.prevent="save">
          <label class="field">name<input v-model="form.name" /></label>
          <label class="field"
            >temperatures in<select v-model="form.temperature_unit">
              <option value="C">°C</option>
              <option value="F">°F</option>
            </select></label
          >
          <label class="field"
            >you sow as usual from, % germination<input
              v-model.number="form.sow"
              type="number"
              min="30"
              max="95"
          /></label>
          <label class="field"
            >enough plants in so many years of a hundred<input
              v-model.number="form.confidence"
              type="number"
              min="50"
              max="99"
          /></label>
          <label class="field"
            >days between ordering and sowing<input
              v-model.number="form.lead"
              type="number"
              min="0"
              max="120"
          /></label>
          <label class="field"
            >last frost, month-day, empty if none<input v-model="form.last" placeholder="05-09"
          /></label>
          <label class="field"
            >first frost, month-day<input v-model="form.first" placeholder="10-02"
          /></label>
          <label class="field">time zone<input v-model="form.tz" /></label>
          <label class="field"
            >codes of new lots<select v-model="form.code_scheme">
              <option value="letter">the kind’s letter and a number: B12</option>
              <option value="kind">three letters and a number: BEA12</option>
              <option value="number">plain numbers: 117</option>
              <option value="spoken">a word one can say: RUMA</option>
            </select></label
          >
          <label class="field"
            >numbers and days<select v-model="form.locale" name="locale">
              <option value="en-GB">1,500.5 and 31/12/2026</option>
              <option value="en-US">1,500.5 and 12/31/2026</option>
              <option value="de-DE">1.500,5 and 31.12.2026</option>
            </select></label
          >
          <label class="field">money, as you write it<input v-model="form.currency" /></label>
          <label class="field"
            >where a scanned label leads<input v-model="form.address" placeholder="this address"
          /></label>
          <button class="btn" type="submit" :disabled="act.busy.value">Save</button>
        </form>
        <h2>People</h2>
        <p>{{ home.data.value?.people.map((p) => p.name).join(', ') || 'Nobody is named yet.' }}</p>
        <form class="row" @submit.prevent="addPerson">
          <input v-model="person" class="plain" aria-label="name of a person" placeholder="name" /><button
            class="btn quiet"
            type="submit"
            :disabled="!person.trim()"
          >
            Add
          </button>
        </form>
      </div>
      <div>
        <h2>What was done</h2>
        <ul class="history">
          <li v-for="a in acts.data.value" :key="a.act_id" :class="{ undone: a.undone }">
            <span class="soft" :title="iso(a.at_s)">{{
              day(a.at_s, Math.abs(nowS - a.at_s) > 300 * 86400)
            }}</span>
            {{ a.summary }}<span v-if="a.who" class="soft"> · {{ a.who }}</span>
            <span v-if="a.undone" class="soft"> (taken back)</span>
            <button v-if="a.undoable" class="btn link small" type="button" @click="undo(a.act_id, a.summary)">
              {{ a.is_undo ? 'do again' : 'take back' }}
            </button>
          </li>
        </ul>
        <p v-if="!acts.data.value?.length" class="soft">Nothing yet.</p>
      </div>
    </div>
  </section>
</template>

<style scoped>
h2 {
  margin: 14px 0 6px;
}
.columns {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 34px;
}
.form {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 10px;
}
.form .btn {
  justify-self: end;
  grid-column: 2;
}
.file input {
  display: none;
}
.history {
  list-style: none;
  padding: 0;
  margin: 0;
}
.history li {
  border-top: 1px solid var(--hair-soft);
  padding: 4px 0;
}
.undone {
  opacity: 0.65;
}
@media (max-width: 900px) {
  .columns,
  .form {
    grid-template-columns: 1fr;
  }
  .form .btn {
    grid-column: 1;
  }
}
</style>
