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
import { bookPantry, thePantry } from './acts'

/** What stands on the shelf, how fast it goes, and when it ends. */
const pantry = useQuery({ queryKey: ['pantry'], queryFn: thePantry })
const act = useAct()
const { productUnit, productShown, productTyped } = useWriting()
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
        ></template
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
.acts {
  flex-wrap: nowrap;
  gap: 6px;
}
</style>
