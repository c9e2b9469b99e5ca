<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { computed, ref } from 'vue'
import type { Schemas } from '../../api/client'
import { useAct } from '../../api/queries'
import ActForm from '../../parts/ActForm.vue'
import type { Column } from '../../parts/DataTable.vue'
import RoomHead from '../../parts/RoomHead.vue'
import { amount, day } from '../../parts/words'
import { useWriting } from '../../parts/writing'
import { bookPantry, setJars, thePantry } from './acts'

/** What stands on the shelf, how fast it goes, and when it ends. */
const pantry = useQuery({ queryKey: ['pantry'], queryFn: thePantry })
const act = useAct()
const { productUnit, productShown, productTyped, volume } = useWriting()
type Line = Schemas['PantryLine']
const booking = ref<{ line: Line; kind: string } | null>(null)
const units = ref<number | null>(1)
const KINDS = {
  put_up: 'put up', opened: 'opened', given: 'given away', spoiled: 'spoiled', counted: 'counted on the shelf',
} // prettier-ignore
const COLUMNS: Column<Line>[] = [
  { key: 'name', title: 'what', by: (l) => l.name },
  { key: 'units', title: 'on the shelf', small: 'on the shelf', by: (l) => l.units },
  { key: 'wanted', title: 'wanted for the year', small: 'wanted', by: (l) => l.wanted },
  { key: 'year', title: 'this year', small: 'this year' },
  { key: 'says', title: 'how long', small: 'how long', by: (l) => l.ends_s },
  { key: 'do' },
]
const shown = (n: number, l: Line) => `${amount(productShown(n, l.unit))} ${productUnit(l.unit)}`
const begin = (line: Line, kind: string) => {
  units.value = kind === 'counted' ? Math.round(10 * productShown(line.units, line.unit)) / 10 : 1
  booking.value = { line, kind }
}
const open = (l: Line) =>
  act.run(`Opened one of ${l.name}`, () => bookPantry(l.product, 'opened', Math.min(1, l.units)), true)
type Jar = Schemas['JarLine']
const JARS: Column<Jar>[] = [
  { key: 'litres', title: 'size', by: (j) => j.litres },
  { key: 'owned', title: 'we have', small: 'we have', by: (j) => j.owned },
  { key: 'full', title: 'full', small: 'full', by: (j) => j.full },
  { key: 'fill', title: 'to fill by the plan', small: 'to fill', by: (j) => j.to_fill },
  { key: 'lids', title: 'unused lids', small: 'unused lids', by: (j) => j.lids },
  { key: 'says', title: '' },
  { key: 'do' },
]
const jar = ref<{
  litres: number | null
  owned: number | null
  lids: number | null
  exact: number | null
} | null>(null)
const count = (j?: Jar) => {
  jar.value = j
    ? { litres: productShown(j.litres, 'litres'), owned: j.owned, lids: j.lids, exact: j.litres }
    : { litres: 0.5, owned: null, lids: null, exact: null }
}
const jarWords = () => `${jar.value?.owned ?? 0} jars of ${jar.value?.litres} ${productUnit('litres')}`
const jarCall = () =>
  setJars(
    jar.value?.exact ?? productTyped(jar.value?.litres ?? 1, 'litres'),
    jar.value?.owned ?? 0,
    jar.value?.lids ?? 0,
  )
const kind = computed(() => KINDS[(booking.value?.kind ?? 'opened') as keyof typeof KINDS])
const words = () => `${booking.value?.line.name}: ${units.value} ${kind.value}`
const call = () =>
  bookPantry(
    booking.value!.line.product,
    booking.value!.kind,
    productTyped(units.value ?? 0, booking.value!.line.unit),
  )
</script>

<template>
  <section>
    <RoomHead title="The pantry" back="Needs" to="/needs">
      <span class="soft">What is left over counts against what is wanted next.</span>
    </RoomHead>
    <RoomState :query="pantry" />
    <p v-if="pantry.data.value && !pantry.data.value.lines.length" class="soft">
      Nothing yet. Name what you want to eat in <RouterLink to="/needs">Needs</RouterLink>; what is put up
      stands here.
    </p>
    <DataTable
      v-else-if="pantry.data.value"
      :rows="pantry.data.value.lines"
      :columns="COLUMNS"
      by="product"
      label="the pantry"
    >
      <template #name="{ row }"
        ><span class="name">{{ row.name }}</span> <span class="soft small">{{ row.how }}</span></template
      >
      <template #units="{ row }"
        ><strong>{{ shown(row.units, row) }}</strong></template
      >
      <template #wanted="{ row }">{{ row.wanted ? shown(row.wanted, row) : '' }}</template>
      <template #year="{ row }"
        ><span v-if="row.put_up || row.gone" class="small"
          >{{ shown(row.put_up, row) }} put up, {{ shown(row.gone, row) }} gone<template v-if="row.spoiled"
            >, {{ shown(row.spoiled, row) }} of it spoiled</template
          ></span
        >
        <div v-for="y in row.earlier" :key="y.year" class="small soft">
          {{ y.year }}: {{ shown(y.put_up, row) }} put up, {{ shown(y.gone, row) }} gone<template
            v-if="y.spoiled"
            >, {{ shown(y.spoiled, row) }} of it spoiled</template
          >
        </div></template
      >
      <template #says="{ row }"
        >{{ row.says }}
        <div v-if="row.oldest_s" class="small" :class="row.past ? 'act' : 'soft'">
          the oldest from {{ day(row.oldest_s) }}{{ row.past ? ': past its best, use it first' : '' }}
        </div></template
      >
      <template #do="{ row }">
        <div class="row acts">
          <AButton v-if="row.units > 0" size="small" @click="open(row)">Opened one</AButton>
          <More
            small
            words="…"
            :hears="`more for ${row.name}`"
            :acts="[
              { words: 'put up', act: () => begin(row, 'put_up') },
              { words: 'opened', act: () => begin(row, 'opened') },
              { words: 'given away', act: () => begin(row, 'given') },
              { words: 'spoiled', act: () => begin(row, 'spoiled') },
              { words: 'count the shelf', act: () => begin(row, 'counted') },
            ]"
          />
        </div>
      </template>
    </DataTable>
    <template v-if="pantry.data.value?.lines.length">
      <div class="row jars">
        <h2>Jars and lids</h2>
        <AButton size="small" @click="count()">Another size</AButton>
      </div>
      <DataTable :rows="pantry.data.value.jars" :columns="JARS" by="litres" label="jars and lids">
        <template #litres="{ row }"
          ><span class="name">{{ volume(row.litres) }}</span></template
        >
        <template #owned="{ row }">{{ row.owned || 'not counted' }}</template>
        <template #full="{ row }">{{ row.full }}</template>
        <template #fill="{ row }">{{ row.to_fill }}</template>
        <template #lids="{ row }">{{ row.owned || row.lids ? row.lids : '' }}</template>
        <template #says="{ row }"
          ><span v-if="row.owned || row.lids" :class="{ act: row.short }">{{ row.says }}</span></template
        >
        <template #do="{ row }"
          ><AButton size="small" :aria-label="`Count them: jars of ${volume(row.litres)}`" @click="count(row)"
            >Count them</AButton
          ></template
        >
      </DataTable>
    </template>
    <ActForm
      v-if="jar"
      title="Jars"
      submit="Write it down"
      :ready="jar.litres !== null && jar.owned !== null"
      :words="jarWords"
      :call="jarCall"
      @close="jar = null"
    >
      <NumberField
        v-if="jar.exact === null"
        v-model="jar.litres"
        label="one holds"
        name="size of the jar"
        :unit="productUnit('litres')"
        :min="0.05"
        :max="10"
        :step="0.05"
      />
      <NumberField v-model="jar.owned" label="jars of it, full and empty" name="jars" whole :min="0" />
      <NumberField v-model="jar.lids" label="unused lids" name="lids" whole :min="0" />
    </ActForm>
    <ActForm
      v-if="booking"
      :title="`${booking.line.name}: ${kind}`"
      submit="Write it down"
      :ready="units !== null"
      again
      :words
      :call
      @close="booking = null"
    >
      <NumberField
        v-model="units"
        :label="kind"
        name="units"
        :unit="productUnit(booking.line.unit)"
        :min="0"
      />
      <p v-if="booking.kind === 'spoiled'" class="small soft">
        Bulging or leaking jars are thrown away untasted.
      </p>
    </ActForm>
  </section>
</template>

<style scoped>
.jars {
  align-items: baseline;
  gap: 14px;
  margin-top: 18px;
}
.acts {
  flex-wrap: nowrap;
  gap: 6px;
}
</style>
