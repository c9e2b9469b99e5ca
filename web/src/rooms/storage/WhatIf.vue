<script setup lang="ts">
import { computed, reactive, ref } from 'vue'
import { api, chosen, Problem, take, type Box, type Schemas } from '../../api/client'
import { useAct, useShelves, useStorageKinds } from '../../api/queries'
import { believed, many, percent, year } from '../../parts/words'
import { useWriting } from '../../parts/writing'
import { planMoves } from './acts'

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
const { massUnit, about, grams: inGrams, written } = useWriting()
const words = (k: string) => kinds.data.value?.names[k]?.[0] ?? k.replaceAll('_', ' ')
const boxes = computed<Box[]>(() =>
  (shelves.data.value ?? []).flatMap((s) => [s.place, ...s.boxes]).filter((b) => b.node_id !== props.nodeId),
)
const where = computed(() => [
  ...boxes.value.map((b) => ({ value: `node:${b.node_id}`, label: b.path, group: 'here at home' })),
  ...Object.keys(kinds.data.value?.places ?? {}).map((k) => ({
    value: `kind:${k}`,
    label: words(k),
    group: 'a kind of place',
  })),
])
const wraps = computed(() =>
  Object.keys(kinds.data.value?.containers ?? {}).map((k) => ({ value: k, label: words(k) })),
)
const CLOSINGS = { airtight: 'as tight as it is', vented: 'lid ajar', breathing: 'open' }
const draft = reactive<{
  where: string | null
  container: string | null
  closing: string
  gel: number | null
}>({ where: null, container: null, closing: 'airtight', gel: null })
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
  const [what, key] = (draft.where ?? '').split(':')
  const grams = inGrams(draft.gel ?? 0)
  options.value.push({
    node_id: what === 'node' ? Number(key) : null,
    place_kind: what === 'kind' ? (key ?? null) : null,
    container_kind: draft.container,
    closing: draft.closing,
    desiccant: grams > 0 ? 'silica_gel' : null,
    desiccant_g: grams,
    label: '',
  })
  school.value = false
  await ask(() =>
    take(
      api.POST('/api/storage/what-if', {
        body: {
          lot_ids: props.lotIds,
          options: options.value.map((o) => ({ ...o, closing: chosen(o.closing) })),
        },
      }),
    ),
  )
}
async function schools() {
  school.value = true
  await ask(() => take(api.GET('/api/storage/schools', { params: { query: { lot_ids: props.lotIds } } })))
}
const until = (f: Schemas['Fate']) => (f.good_until_s ? year(f.good_until_s) : 'longer than shown')
const years = (n: number, most: number) =>
  n >= most - 0.1 ? `over ${most} years` : n < 0.1 ? 'below it already' : `${written(n.toFixed(1))} years`
const speed = (v: number) => (v < 0.01 ? `under ${written('0.01')}` : written(v.toFixed(2)))
async function moveAll(nodeId: number) {
  const moves = props.lotIds.map((lot_id) => ({ lot_id, node_id: nodeId }))
  await act.run(`Planned ${moves.length} moves`, () => planMoves(moves))
}
type Way = { o: Schemas['WhatIf']['options'][number]; i: number }
const ways = computed<Way[]>(() => (found.value?.options ?? []).map((o, i) => ({ o, i })))
const WAYS = computed(() => [
  { key: 'label', title: 'way of storing' },
  {
    key: 'middle',
    title: `good to ${percent(found.value?.level ?? 0)}, middle packet`,
    small: 'good for',
    by: (w: Way) => w.o.median_years,
  },
  { key: 'fresh', title: 'new seed there', small: 'new seed', by: (w: Way) => w.o.new_years },
  { key: 'speed', title: 'pace of ageing', small: 'pace of ageing', by: (w: Way) => w.o.speed },
  { key: 'mind', title: 'mind' },
  { key: 'work', title: 'work' },
])
const LOTS = computed(() => [
  { key: 'lot', title: 'packet' },
  ...ways.value.map((w) => ({ key: `way${w.i}`, title: w.o.label, small: w.o.label })),
])
</script>

<template>
  <section class="card">
    <h2>What if it stood elsewhere?</h2>
    <p class="small soft">
      {{ many(lotIds.length, 'packet') }}, the same forecast in another air behind other walls. Nothing is
      moved by looking.
    </p>
    <AForm class="act-form inline" layout="vertical" @submit.prevent="add">
      <ChoiceField v-model="draft.where" label="where" :options="where" />
      <ChoiceField v-model="draft.container" label="in" :options="wraps" none="as it is wrapped" />
      <ChoiceField v-model="draft.closing" label="closed" :options="CLOSINGS" />
      <NumberField v-model="draft.gel" label="silica gel" :unit="massUnit" :min="0" />
      <div class="end">
        <AButton
          type="primary"
          ghost
          html-type="submit"
          :disabled="!draft.where || busy || options.length >= 8"
        >
          Compare
        </AButton>
        <AButton type="link" :disabled="busy" @click="schools">
          shelf, fridge or freezer? tight or breathing?
        </AButton>
      </div>
    </AForm>
    <p v-if="wrong" role="alert" class="act">{{ wrong }}</p>
    <p v-if="busy" class="soft small">Reckoning…</p>
    <template v-if="found">
      <div class="scroll">
        <DataTable :rows="ways" :columns="WAYS" by="i">
          <template #label="{ row }"
            ><strong>{{ row.o.label }}</strong></template
          >
          <template #middle="{ row }">{{ years(row.o.median_years, row.o.longest_years) }}</template>
          <template #fresh="{ row }">{{ years(row.o.new_years, row.o.longest_years) }}</template>
          <template #speed="{ row }">{{ row.i === 0 ? '' : speed(row.o.speed) }}</template>
          <template #mind="{ row }"
            ><span class="small">{{ row.o.cautions.join('; ') }}</span></template
          >
          <template #work="{ row }">
            <span class="small">{{ row.o.effort }} </span>
            <AButton v-if="row.o.node_id" type="link" size="small" @click="moveAll(row.o.node_id)">
              put the moves on today’s list
            </AButton>
          </template>
        </DataTable>
        <DataTable v-if="!school" :rows="found.lots" :columns="LOTS" by="lot_id">
          <template #lot="{ row }"
            ><RouterLink :to="`/stock/${row.lot_id}`"
              ><span class="code">{{ row.code }}</span> {{ row.name }}</RouterLink
            ></template
          >
          <template v-for="w in ways" :key="w.i" #[`way${w.i}`]="{ row }">
            <template v-if="row.fates[w.i]"
              >{{ until(row.fates[w.i]!)
              }}<span v-if="row.fates[w.i]!.at_sowing" class="soft"
                >; {{ believed(row.fates[w.i]!.at_sowing!) }} at the next sowing</span
              ></template
            >
          </template>
        </DataTable>
      </div>
      <p class="small soft">
        A pace of 1 is a bedroom at {{ about(18) }} and 50 %. Dry first, then cold: shut in damp, the tightest
        jar is the worst place.
      </p>
    </template>
  </section>
</template>

<style scoped>
.scroll {
  overflow-x: auto;
}
</style>
