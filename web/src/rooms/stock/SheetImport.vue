<script setup lang="ts">
import { computed, reactive, ref, watch } from 'vue'
import { api, asProblem, sendFile, take, type Schemas } from '../../api/client'
import { lastProblem, useAct } from '../../api/queries'
import { usePlaces } from '../../parts/fields/places'
import { bringSheet } from './acts'

/** A pasted or opened table: which column is what, a dry run row by row, then all of it or nothing. */
const props = defineProps<{ text: string; name: string }>()
const emit = defineEmits<{ close: [] }>()
const act = useAct()
const look = ref<Schemas['SheetLook'] | null>(null)
const columns = reactive<Record<number, string>>({})
const node = ref<number | null>(null)
const rows = ref<Schemas['Understood'][] | null>(null)
const skip = ref(new Set<number>())
/** A day in figures that could be two: asked once for the whole sheet. */
const dayFirst = ref<'' | 'day' | 'month'>('')
const mended = ref<Record<number, Record<string, string>>>({})
const ours = computed(
  () => look.value?.header.includes('record_from') && look.value.header.includes('share_sd'),
)
const mapping = computed(() =>
  Object.fromEntries(
    Object.entries(columns)
      .filter(([, field]) => field)
      .map(([i, field]) => [field, Number(i)]),
  ),
)
const wrong = computed(() =>
  (rows.value ?? []).filter((r) => Object.keys(r.problems).length && !skip.value.has(r.line)),
)
const coming = computed(() => (rows.value ?? []).filter((r) => !skip.value.has(r.line)).length)
const body = () => ({
  text: props.text, name: props.name, mapping: mapping.value, node_id: node.value, skip: [...skip.value],
  mended: mended.value, day_first: dayFirst.value === '' ? null : dayFirst.value === 'day',
}) // prettier-ignore

async function tried<T>(call: Promise<T>): Promise<T | null> {
  try {
    return await call
  } catch (error) {
    lastProblem.value = asProblem(error)
    return null
  }
}
watch(
  () => props.text,
  async () => {
    rows.value = null
    look.value = await tried(take(api.POST('/api/stock/sheet/look', { body: body() })))
    if (!look.value) return emit('close')
    for (const i of look.value.header.keys()) columns[i] = ''
    for (const [field, i] of Object.entries(look.value.mapping)) columns[i] = field
  },
  { immediate: true },
)
/** A row is put right where it stands: the table itself stays as it is. */
const mending = ref<number | null>(null)
const now = reactive({ kind: '', variety: '', year: '', quantity: '', place: '', types: '' })
type Fields = keyof typeof now
const { path } = usePlaces()
function mend(row: Schemas['Understood']) {
  const was = mended.value[row.line] ?? {}
  const item = row.item
  Object.assign(now, {
    kind: row.kind_name || item.kind, variety: item.variety, year: item.date ?? '', quantity: item.quantity,
    place: item.node_id ? path(item.node_id) : '', types: item.types ?? '', ...was,
  }) // prettier-ignore
  mending.value = row.line
}
const mendingRow = computed(() => rows.value?.find((r) => r.line === mending.value) ?? null)
const yearless = computed(
  () => (rows.value ?? []).filter((r) => !skip.value.has(r.line) && !r.date_words && !r.problems.date).length,
)
async function mendIt(row: Schemas['Understood']) {
  const item = row.item
  const stood: Record<Fields, string> = {
    kind: row.kind_name || item.kind, variety: item.variety ?? '', year: item.date ?? '', quantity: item.quantity ?? '',
    place: item.node_id ? path(item.node_id) : '', types: item.types ?? '',
  } // prettier-ignore
  const changed = Object.fromEntries(
    (Object.keys(now) as Fields[]).filter((f) => now[f] !== stood[f]).map((f) => [f, now[f]]),
  )
  mended.value = { ...mended.value, [row.line]: { ...mended.value[row.line], ...changed } }
  mending.value = null
  const left = new Set(skip.value)
  await check()
  skip.value = left
}
async function check() {
  const found = await tried(take(api.POST('/api/stock/sheet/check', { body: body() })))
  if (!found) return
  rows.value = found
  skip.value = new Set()
}
function toggle(line: number) {
  const next = new Set(skip.value)
  if (!next.delete(line)) next.add(line)
  skip.value = next
}
async function bring() {
  const call = () =>
    ours.value ? sendFile('/api/papers/packets', new File([props.text], props.name)) : bringSheet(body())
  if (await act.run(`Brought in ${coming.value || look.value?.rows} packets from ${props.name}`, call))
    emit('close')
}
const fields = computed(() => [
  { value: '', label: 'left out' },
  ...(look.value?.fields ?? []).map((f) => ({ value: f, label: label(f) })),
])
const sample = computed(() => (look.value?.sample ?? []).map((cells, line) => ({ cells, line })))
const sampleColumns = computed(() =>
  (look.value?.header ?? []).map((h, i) => ({ key: String(i), title: h || ' ' })),
)
const ROWS = [
  { key: 'line', title: 'line', width: 48 },
  { key: 'kind', title: 'kind', width: 130 },
  { key: 'name', title: 'name', width: 150 },
  { key: 'from', title: 'from', width: 100 },
  { key: 'much', title: 'how much', width: 190 },
  { key: 'know', title: 'what to know' },
  { key: 'skip', width: 140 },
]
const label = (field: string) => field.replace(/^packet_/, '').replaceAll('_', ' ')
</script>

<template>
  <div v-if="look" class="card sheet" role="region" aria-label="Bring in a table">
    <div class="row">
      <h2>{{ name }}: {{ look.rows }} rows</h2>
      <span class="spring" />
      <AButton type="link" @click="emit('close')">leave it</AButton>
    </div>
    <template v-if="ours">
      <p>This is the stock as this program writes it: every packet comes in as it was, with nothing lost.</p>
      <AButton type="primary" @click="bring">Bring it in</AButton>
    </template>
    <template v-else>
      <p class="soft small">Say what each column is; what has no name is left out. Nothing is kept yet.</p>
      <div class="scroll">
        <DataTable :rows="sample" :columns="sampleColumns" by="line">
          <template #head="{ column }">
            <div v-if="look.has_header">
              {{ look.header[Number(column)] || `column ${Number(column) + 1}` }}
            </div>
            <Choice
              v-model="columns[Number(column)]!"
              :options="fields"
              :hears="`column ${Number(column) + 1}, ${look.header[Number(column)]}, is`"
              @update:model-value="rows = null"
            />
          </template>
          <template v-for="(_, i) in look.header" :key="i" #[String(i)]="{ row }">{{
            row.cells[i]
          }}</template>
        </DataTable>
      </div>
      <div class="row">
        <PlaceField
          v-model="node"
          label="they stand in"
          none="as the table says, or not said"
          @update:model-value="rows = null"
        />
        <ChoiceField
          v-if="look.either_day.length"
          v-model="dayFirst"
          :label="`${look.either_day[0]} is`"
          name="day_first"
          none="as you write days"
          :options="{ day: look.either_day[1]!, month: look.either_day[2]! }"
          @update:model-value="rows = null"
        />
        <AButton type="primary" ghost @click="check">Look at all rows</AButton>
      </div>
      <template v-if="rows">
        <p v-if="wrong.length" class="warm" role="alert">
          {{ wrong.length }} {{ wrong.length === 1 ? 'row' : 'rows' }} cannot be as they are: mend them here,
          or leave them out.
        </p>
        <p v-if="yearless" class="soft" role="status">
          {{ yearless }} of {{ coming }} {{ yearless === 1 ? 'has' : 'have' }} no year: taken as old as what
          else you keep of it.
        </p>
        <form
          v-if="mendingRow"
          class="row mend card"
          :aria-label="`Put line ${mendingRow.line} right`"
          @submit.prevent="mendIt(mendingRow)"
        >
          <strong>line {{ mendingRow.line }}</strong>
          <KindField v-model="now.kind" />
          <ChoiceField
            v-if="mendingRow.type_choices.length > 1"
            v-model="now.types"
            label="type"
            name="types"
            :none="mendingRow.types.join(', ') || 'not said'"
            :options="mendingRow.type_choices.map((t) => ({ value: t.key, label: t.name }))"
          />
          <TextField v-model="now.variety" label="name" name="variety" />
          <TextField v-model="now.year" label="from" name="date" placeholder="2024" />
          <TextField v-model="now.quantity" label="how much" name="quantity" />
          <TextField v-model="now.place" label="place" name="place" />
          <AButton type="primary" html-type="submit">Put it right</AButton>
        </form>
        <DataTable
          :rows
          :columns="ROWS"
          by="line"
          :row-class="(r) => (skip.has(r.line) ? 'out' : '')"
          height="46vh"
        >
          <template #line="{ row }">{{ row.line }}</template>
          <template #kind="{ row }">{{ row.kind_name || row.item.kind || 'unknown' }}</template>
          <template #name="{ row }">{{ row.item.variety || row.item.note }}</template>
          <template #from="{ row }">{{ row.date_words }}</template>
          <template #much="{ row }">{{ row.quantity_words }}</template>
          <template #know="{ row }">
            <span v-for="(why, field) in row.problems" :key="field" class="warm"
              >{{ field }}: {{ why }}.
            </span>
            <span v-if="row.twin_words" class="act">{{ row.twin_words }}. </span>
            <span v-if="row.types.length" class="small">{{ row.types.join(', ') }}. </span>
            <span class="soft">{{ row.assumed.join('; ') }}</span>
          </template>
          <template #skip="{ row }">
            <AButton type="link" size="small" @click="mending === row.line ? (mending = null) : mend(row)">
              {{ mending === row.line ? 'leave it' : 'mend' }}
            </AButton>
            <AButton type="link" size="small" @click="toggle(row.line)">
              {{ skip.has(row.line) ? 'take it' : 'leave out' }}
            </AButton>
          </template>
        </DataTable>
        <AButton type="primary" :disabled="!!wrong.length || !coming" @click="bring">
          Bring in {{ coming }} {{ coming === 1 ? 'packet' : 'packets' }}
        </AButton>
      </template>
    </template>
  </div>
</template>

<style scoped>
.sheet {
  margin-bottom: 12px;
}
.spring {
  flex: 1;
}
.scroll {
  overflow: auto;
  margin: 8px 0;
}
.mend > * {
  flex: 1 1 120px;
  min-width: 0;
}
.tall {
  max-height: 46vh;
}
.warm {
  color: var(--warm);
}
.out {
  text-decoration: line-through;
  color: var(--soft);
}
</style>
