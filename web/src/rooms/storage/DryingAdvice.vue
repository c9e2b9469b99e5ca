<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { computed, ref, toRef } from 'vue'
import { api, take } from '../../api/client'
import ActForm from '../../parts/ActForm.vue'
import { many, percent, word, wordsOf } from '../../parts/words'
import { useWriting } from '../../parts/writing'
import { noteDryness, putDesiccant } from './acts'

/** How dry, what this place allows, how much desiccant and how long, when to stop, seal, freeze. */
const props = defineProps<{ nodeId: number; container: boolean }>()
const id = toRef(props, 'nodeId')
const target = ref<number | null>(35)
const gel = ref<number | null>(null)
const kind = ref<string>('silica_gel')
const { massUnit, grams, about, mass, unit, written } = useWriting()
const drying = useQuery({
  queryKey: ['drying', id, target],
  retry: false,
  queryFn: () =>
    take(
      api.GET('/api/storage/nodes/{node_id}/drying', {
        params: { path: { node_id: id.value }, query: { target_pct: target.value ?? 35 } },
      }),
    ),
})
const d = computed(() => drying.data.value)
const days = (n: number | null | undefined) =>
  n === null || n === undefined ? 'never' : n < 1 ? 'within a day' : `about ${Math.round(n)} days`
const shown = ref<number | null>(null)
const shownAt = ref<number | null>(null)
/** A dial shut in with the seed for a day tells how dry all of it is. */
const found = () =>
  noteDryness({
    lot_ids: (d.value?.lots ?? []).map((l) => l.lot_id),
    humidity_pct: shown.value,
    dial: shownAt.value,
  })
const put = () => putDesiccant(id.value, kind.value, grams(gel.value ?? 0))
const COLUMNS = [
  { key: 'lot', title: 'packet' },
  { key: 'dry', title: 'dryness', small: 'dryness' },
  { key: 'wet', title: 'moisture, of fresh weight', small: 'moisture' },
  { key: 'mind' },
]
</script>

<template>
  <section v-if="d" class="card">
    <h2>Dry enough?</h2>
    <p>
      <strong>{{ percent(d.now_erh) }} now</strong>
      <span class="soft">
        (the humidity the seed shows at {{ about(20) }}; {{ mass(d.seed_g) }} of seed<template
          v-if="d.guessed_lots"
          >, {{ many(d.guessed_lots, 'packet') }} guessed at {{ mass(5) }}</template
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
    <ActForm
      v-if="container"
      inline
      quiet
      submit="It is in"
      :ready="(gel ?? 0) > 0"
      :words="() => `${written(gel ?? 0)} ${massUnit} of ${word('desiccant', kind)} put in`"
      :call="put"
      @done="gel = null"
    >
      <NumberField
        v-model="target"
        label="aim for"
        name="target"
        unit="%"
        whole
        :min="15"
        :max="60"
        :step="5"
      />
      <ChoiceField v-model="kind" label="put in" :options="wordsOf('desiccant')" />
      <NumberField v-model="gel" label="freshly dried" name="mass" :unit="massUnit" :min="0" />
    </ActForm>
    <ActForm
      inline
      quiet
      submit="Note it"
      :ready="shown !== null"
      :words="() => `The dial inside shows ${written(shown ?? 0)} %`"
      :call="found"
      @done="shown = shownAt = null"
    >
      <NumberField v-model="shown" label="a dial shut in with it shows" name="humidity" unit="%" />
      <NumberField v-model="shownAt" label="at" name="dial" :unit />
    </ActForm>
    <details class="small">
      <summary>Packet by packet</summary>
      <DataTable :rows="d.lots" :columns="COLUMNS" by="lot_id">
        <template #lot="{ row }"
          ><RouterLink :to="`/stock/${row.lot_id}`"
            ><span class="code">{{ row.code }}</span> {{ row.name }}</RouterLink
          ></template
        >
        <template #dry="{ row }">{{ percent(row.erh) }}, {{ row.word }}</template>
        <template #wet="{ row }">{{ written(row.moisture_pct.toFixed(1)) }} %</template>
        <template #mind="{ row }">{{ row.caution }}</template>
      </DataTable>
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
