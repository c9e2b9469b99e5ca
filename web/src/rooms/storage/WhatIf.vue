<script setup lang="ts">
import { computed, reactive, ref } from 'vue'
import { api, Problem, take, type Box, type Schemas } from '../../api/client'
import { useAct, useShelves, useStorageKinds } from '../../api/queries'
import { percent, year } from '../../parts/words'

/** What if these lots stood elsewhere: the same forecast side by side; nothing is moved by looking. */
type Option = {
  node_id: number | null
  place_kind: string | null
  container_kind: string | null
  closing: string
  desiccant: string | null
  desiccant_g: number
  label: string
}
const props = defineProps<{ lotIds: number[]; nodeId: number }>()
const shelves = useShelves()
const kinds = useStorageKinds()
const act = useAct()
const words = (k: string) => k.replaceAll('_', ' ')
const boxes = computed<Box[]>(() =>
  (shelves.data.value ?? []).flatMap((s) => [s.place, ...s.boxes]).filter((b) => b.node_id !== props.nodeId),
)
const draft = reactive({ where: '', container: '', closing: 'airtight', gel: '' })
const options = ref<Option[]>([])
const found = ref<Schemas['WhatIf'] | null>(null)
const busy = ref(false)
const wrong = ref('')
const school = ref(false)

async function ask(call: () => Promise<Schemas['WhatIf']>) {
  busy.value = true
  wrong.value = ''
  try {
    found.value = await call()
  } catch (e) {
    wrong.value = e instanceof Problem ? e.message : String(e)
    options.value.pop()
  } finally {
    busy.value = false
  }
}
async function add() {
  const [what, key] = draft.where.split(':')
  const grams = Number(draft.gel.replace(',', '.')) || 0
  options.value.push({
    node_id: what === 'node' ? Number(key) : null,
    place_kind: what === 'kind' ? (key ?? null) : null,
    container_kind: draft.container || null,
    closing: draft.closing,
    desiccant: grams > 0 ? 'silica_gel' : null,
    desiccant_g: grams,
    label: '',
  })
  school.value = false
  await ask(() =>
    take(api.POST('/api/storage/what-if', { body: { lot_ids: props.lotIds, options: options.value } })),
  )
}
async function schools() {
  school.value = true
  await ask(() => take(api.GET('/api/storage/schools', { params: { query: { lot_ids: props.lotIds } } })))
}
const until = (f: Schemas['Fate']) => (f.good_until_s ? year(f.good_until_s) : 'longer than shown')
const years = (n: number, most: number) =>
  n >= most - 0.1 ? `over ${most} years` : n < 0.1 ? 'below it already' : `${n.toFixed(1)} years`
const speed = (v: number) => (v < 0.01 ? 'under 0.01' : v.toFixed(2))
async function moveAll(nodeId: number) {
  const moves = props.lotIds.map((lot_id) => ({ lot_id, node_id: nodeId }))
  await act.run(`Planned ${moves.length} moves`, () =>
    take(api.POST('/api/storage/best-use/jobs', { body: { moves } })),
  )
}
</script>

<template>
  <section class="card">
    <h3>What if it stood elsewhere?</h3>
    <p class="small soft">
      {{ lotIds.length }} {{ lotIds.length === 1 ? 'lot' : 'lots' }}, the same forecast in another air behind
      other walls. Nothing is moved by looking.
    </p>
    <form class="row" @submit.prevent="add">
      <label class="field"
        >where
        <select v-model="draft.where">
          <option value="">choose</option>
          <optgroup label="here at home">
            <option v-for="b in boxes" :key="b.node_id" :value="`node:${b.node_id}`">{{ b.path }}</option>
          </optgroup>
          <optgroup label="a kind of place">
            <option v-for="(_, k) in kinds.data.value?.places" :key="k" :value="`kind:${k}`">
              {{ words(k) }}
            </option>
          </optgroup>
        </select>
      </label>
      <label class="field"
        >in
        <select v-model="draft.container">
          <option value="">as it is wrapped</option>
          <option v-for="(_, k) in kinds.data.value?.containers" :key="k" :value="k">{{ words(k) }}</option>
        </select>
      </label>
      <label class="field"
        >closed
        <select v-model="draft.closing">
          <option value="airtight">as tight as it is</option>
          <option value="vented">lid ajar</option>
          <option value="breathing">open</option>
        </select>
      </label>
      <label class="field">silica gel, g<input v-model="draft.gel" inputmode="decimal" class="gel" /></label>
      <button class="btn" type="submit" :disabled="!draft.where || busy || options.length >= 8">
        Compare
      </button>
      <button class="btn link" type="button" :disabled="busy" @click="schools">
        shelf, fridge or freezer? tight or breathing?
      </button>
    </form>
    <p v-if="wrong" role="alert" class="act">{{ wrong }}</p>
    <p v-if="busy" class="soft small">Reckoning…</p>
    <template v-if="found">
      <div class="scroll">
        <table class="plain options">
          <thead>
            <tr>
              <th>way of storing</th>
              <th>good to {{ percent(found.level) }}, middle lot</th>
              <th>new seed there</th>
              <th>ageing speed</th>
              <th>mind</th>
              <th>work</th>
            </tr>
          </thead>
          <tbody>
            <tr v-for="(o, i) in found.options" :key="i">
              <td>
                <strong>{{ o.label }}</strong>
              </td>
              <td class="num">{{ years(o.median_years, o.longest_years) }}</td>
              <td class="num">{{ years(o.new_years, o.longest_years) }}</td>
              <td class="num">{{ i === 0 ? '' : speed(o.speed) }}</td>
              <td class="small">{{ o.cautions.join('; ') }}</td>
              <td class="small">
                {{ o.effort }}
                <button v-if="o.node_id" class="btn link" type="button" @click="moveAll(o.node_id)">
                  put the moves on today’s list
                </button>
              </td>
            </tr>
          </tbody>
        </table>
        <table v-if="!school" class="plain lots small">
          <thead>
            <tr>
              <th>lot</th>
              <th v-for="(o, i) in found.options" :key="i">{{ o.label }}</th>
            </tr>
          </thead>
          <tbody>
            <tr v-for="l in found.lots" :key="l.lot_id">
              <td>
                <RouterLink :to="`/stock/${l.lot_id}`"
                  ><span class="code">{{ l.code }}</span> {{ l.name }}</RouterLink
                >
              </td>
              <td v-for="(f, i) in l.fates" :key="i">
                {{ until(f)
                }}<span v-if="f.at_sowing" class="soft"
                  >; {{ percent(f.at_sowing.mid) }} ({{ Math.round(100 * f.at_sowing.low) }}–{{
                    Math.round(100 * f.at_sowing.high)
                  }}) at the next sowing</span
                >
              </td>
            </tr>
          </tbody>
        </table>
      </div>
      <p class="small soft">
        Ageing speed 1 is a bedroom at 18 °C and 50 %. Dry first, then cold: shut in damp, the tightest jar is
        the worst place.
      </p>
    </template>
  </section>
</template>

<style scoped>
.row {
  align-items: flex-end;
}
.gel {
  width: 80px;
}
.scroll {
  overflow-x: auto;
}
.options {
  margin-top: 8px;
}
.num {
  white-space: nowrap;
}
.lots th {
  min-width: 120px;
}
select {
  max-width: 190px;
}
</style>
