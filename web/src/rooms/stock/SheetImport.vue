<script setup lang="ts">
import { computed, reactive, ref, watch } from 'vue'
import { api, Problem, take, type Schemas } from '../../api/client'
import { lastProblem, useAct, useShelves } from '../../api/queries'

/** A pasted or opened table: which column is what, a dry run row by row, then all of it or nothing. */
const props = defineProps<{ text: string; name: string }>()
const emit = defineEmits<{ close: [] }>()
const act = useAct()
const shelves = useShelves()
const look = ref<Schemas['SheetLook'] | null>(null)
const columns = reactive<Record<number, string>>({})
const node = ref<number | null>(null)
const rows = ref<Schemas['Understood'][] | null>(null)
const skip = ref(new Set<number>())
const places = computed(() =>
  (shelves.data.value ?? []).flatMap((s) => (s.boxes.length ? s.boxes : [s.place])),
)
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
}) // prettier-ignore

async function tried<T>(call: Promise<T>): Promise<T | null> {
  try {
    return await call
  } catch (error) {
    lastProblem.value =
      error instanceof Problem ? error : new Problem(0, 'Something went wrong', String(error))
    return null
  }
}
watch(
  () => props.text,
  async () => {
    rows.value = null
    look.value = await tried(take(api.POST('/api/stock/sheet/look', { body: body() })))
    if (!look.value) return emit('close')
    for (const [field, i] of Object.entries(look.value.mapping)) columns[i] = field
  },
  { immediate: true },
)
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
  const call = ours.value
    ? async () => {
        const form = new FormData()
        form.append('file', new File([props.text], props.name))
        const response = await fetch('/api/papers/packets', {
          method: 'POST', body: form, headers: { 'X-Act-Id': crypto.randomUUID() },
        }) // prettier-ignore
        const data = await response.json()
        return take<Schemas['Answer']>(
          Promise.resolve(response.ok ? { data, response } : { error: data, response }),
        )
      }
    : () => take(api.POST('/api/stock/sheet', { body: body() }))
  if (await act.run(`Brought in ${coming.value || look.value?.rows} packets from ${props.name}`, call))
    emit('close')
}
const label = (field: string) => field.replace(/^packet_/, '').replaceAll('_', ' ')
</script>

<template>
  <div v-if="look" class="card sheet" role="region" aria-label="Bring in a table">
    <div class="row">
      <h2>{{ name }}: {{ look.rows }} rows</h2>
      <span class="spring" />
      <button class="btn link" type="button" @click="emit('close')">leave it</button>
    </div>
    <template v-if="ours">
      <p>This is the stock as this program writes it: every lot comes in as it was, with nothing lost.</p>
      <button class="btn" type="button" @click="bring">Bring it in</button>
    </template>
    <template v-else>
      <p class="soft small">Say what each column is; what has no name is left out. Nothing is kept yet.</p>
      <div class="scroll">
        <table class="plain small">
          <thead>
            <tr>
              <th v-for="(h, i) in look.header" :key="i">
                <div v-if="look.has_header">{{ h || `column ${i + 1}` }}</div>
                <select
                  v-model="columns[i]"
                  class="plain"
                  :aria-label="`column ${i + 1}, ${h}, is`"
                  @change="rows = null"
                >
                  <option value="">left out</option>
                  <option v-for="f in look.fields" :key="f" :value="f">{{ label(f) }}</option>
                </select>
              </th>
            </tr>
          </thead>
          <tbody>
            <tr v-for="(r, i) in look.sample" :key="i">
              <td v-for="(_, j) in look.header" :key="j">{{ r[j] }}</td>
            </tr>
          </tbody>
        </table>
      </div>
      <div class="row">
        <label class="field"
          >they stand in<select v-model="node" @change="rows = null">
            <option :value="null">as the table says, or not said</option>
            <option v-for="b in places" :key="b.node_id" :value="b.node_id">{{ b.path }}</option>
          </select></label
        >
        <button class="btn quiet" type="button" @click="check">Look at all rows</button>
      </div>
      <template v-if="rows">
        <p v-if="wrong.length" class="warm" role="alert">
          {{ wrong.length }} {{ wrong.length === 1 ? 'row' : 'rows' }} cannot be as they are: mend the table,
          or leave them out.
        </p>
        <div class="scroll tall">
          <table class="plain small">
            <thead>
              <tr>
                <th>line</th>
                <th>kind</th>
                <th>name</th>
                <th>from</th>
                <th>how much</th>
                <th>what to know</th>
                <th />
              </tr>
            </thead>
            <tbody>
              <tr v-for="r in rows" :key="r.line" :class="{ out: skip.has(r.line) }">
                <td>{{ r.line }}</td>
                <td>{{ r.kind_name || r.item.kind || 'unknown' }}</td>
                <td>{{ r.item.variety || r.item.note }}</td>
                <td>{{ r.date_words }}</td>
                <td>{{ r.quantity_words }}</td>
                <td>
                  <span v-for="(why, field) in r.problems" :key="field" class="warm"
                    >{{ field }}: {{ why }}.
                  </span>
                  <span v-if="r.twin_words" class="act">{{ r.twin_words }}. </span>
                  <span class="soft">{{ r.assumed.join('; ') }}</span>
                </td>
                <td>
                  <button class="btn link small" type="button" @click="toggle(r.line)">
                    {{ skip.has(r.line) ? 'take it' : 'leave out' }}
                  </button>
                </td>
              </tr>
            </tbody>
          </table>
        </div>
        <button class="btn" type="button" :disabled="!!wrong.length || !coming" @click="bring">
          Bring in {{ coming }} {{ coming === 1 ? 'packet' : 'packets' }}
        </button>
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
