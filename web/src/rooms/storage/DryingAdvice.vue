<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { computed, ref, toRef } from 'vue'
import { api, take } from '../../api/client'
import { useAct } from '../../api/queries'
import { percent, useUnits, word, wordsOf } from '../../parts/words'

/** How dry, what this place allows, how much desiccant and how long, when to stop, seal, freeze. */
const props = defineProps<{ nodeId: number; container: boolean }>()
const id = toRef(props, 'nodeId')
const target = ref(35)
const gel = ref('')
const kind = ref('silica_gel')
const act = useAct()
const units = useUnits()
const drying = useQuery({
  queryKey: ['drying', id, target],
  retry: false,
  queryFn: () =>
    take(
      api.GET('/api/storage/nodes/{node_id}/drying', {
        params: { path: { node_id: id.value }, query: { target_pct: target.value } },
      }),
    ),
})
const d = computed(() => drying.data.value)
const days = (n: number | null | undefined) =>
  n === null || n === undefined ? 'never' : n < 1 ? 'within a day' : `about ${Math.round(n)} days`
const shown = ref('')
const shownAt = ref('')
const number = (text: string) => (text.trim() === '' ? null : Number(text.replace(',', '.')))
/** A dial shut in with the seed for a day tells how dry all of it is. */
async function found() {
  const done = await act.run(`The dial inside shows ${shown.value} %`, () =>
    take(
      api.POST('/api/storage/dryness', {
        body: {
          lot_ids: (d.value?.lots ?? []).map((l) => l.lot_id),
          humidity_pct: number(shown.value),
          dial: number(shownAt.value),
        },
      }),
    ),
  )
  if (done) shown.value = shownAt.value = ''
}
async function put() {
  const mass = Number(gel.value.replace(',', '.'))
  const done = await act.run(`${mass} g of ${word('desiccant', kind.value)} put in`, () =>
    take(
      api.POST('/api/storage/nodes/{node_id}/desiccant', {
        params: { path: { node_id: id.value } },
        body: { kind: kind.value, mass_g: mass, spent: false },
      }),
    ),
  )
  if (done) gel.value = ''
}
</script>

<template>
  <section v-if="d" class="card">
    <h3>Dry enough?</h3>
    <p>
      <strong>{{ percent(d.now_erh) }} now</strong>
      <span class="soft">
        (the humidity the seed shows at 20 °C; {{ d.seed_g }} g of seed<template v-if="d.guessed_lots"
          >, {{ d.guessed_lots }} lots guessed at 5 g</template
        >)</span
      >. {{ d.place_says }}
    </p>
    <ul class="plainlist">
      <li><b>Seal?</b> {{ d.may_seal }}.</li>
      <li><b>Freeze?</b> {{ d.may_freeze }}.</li>
      <li v-if="d.now_erh > d.target_erh">
        <b>In this air</b> {{ days(d.days_in_air) }} to {{ percent(d.target_erh) }}.
      </li>
      <li v-for="s in d.sachets" :key="s.kind">
        <template v-if="d.now_erh > d.target_erh">
          <b>{{ word('desiccant', s.kind) }}</b> {{ s.says
          }}<template v-if="s.grams">: {{ days(s.days) }}</template
          >.
        </template>
      </li>
      <li v-if="d.redry_days"><b>Dry the gel again</b> after about {{ d.redry_days }} days.</li>
      <li><b>Stop</b> {{ d.stop_when.charAt(0).toLowerCase() + d.stop_when.slice(1) }}</li>
    </ul>
    <form v-if="container" class="row small" @submit.prevent="put">
      <label class="field"
        >aim for, %
        <input v-model.number="target" type="number" min="15" max="60" step="5" />
      </label>
      <label class="field"
        >put in
        <select v-model="kind">
          <option v-for="(w, k) in wordsOf('desiccant')" :key="k" :value="k">{{ w }}</option>
        </select>
      </label>
      <label class="field">grams, freshly dried<input v-model="gel" inputmode="decimal" /></label>
      <button class="btn quiet" type="submit" :disabled="!gel.trim() || act.busy.value">It is in</button>
    </form>
    <form class="row small" @submit.prevent="found">
      <label class="field"
        >a dial shut in with it shows, %<input v-model="shown" inputmode="decimal"
      /></label>
      <label class="field">at {{ units.unit.value }}<input v-model="shownAt" inputmode="decimal" /></label>
      <button class="btn quiet" type="submit" :disabled="!shown.trim() || act.busy.value">Note it</button>
    </form>
    <details class="small">
      <summary>Lot by lot</summary>
      <table class="plain stack">
        <thead>
          <tr>
            <th>lot</th>
            <th>dryness</th>
            <th>moisture, of fresh weight</th>
            <th></th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="l in d.lots" :key="l.lot_id">
            <td>
              <RouterLink :to="`/stock/${l.lot_id}`"
                ><span class="code">{{ l.code }}</span> {{ l.name }}</RouterLink
              >
            </td>
            <td data-label="dryness">{{ percent(l.erh) }}, {{ l.word }}</td>
            <td data-label="moisture">{{ l.moisture_pct.toFixed(1) }} %</td>
            <td>{{ l.caution }}</td>
          </tr>
        </tbody>
      </table>
    </details>
  </section>
</template>

<style scoped>
.plainlist {
  list-style: none;
  padding: 0;
  margin: 0 0 8px;
}
.row {
  align-items: flex-end;
}
input {
  width: 92px;
}
b {
  font-weight: 600;
}
</style>
