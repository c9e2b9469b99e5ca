<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { computed, ref } from 'vue'
import type { ChainLine } from '../../api/client'
import { useAct, useHome } from '../../api/queries'
import { many } from '../../parts/words'
import { useWriting } from '../../parts/writing'
import { dropHarvest, harvestsOf, noteHarvest } from './acts'

/** What one's own plants gave, year by year: it weighs against the book. */
const props = defineProps<{ line: ChainLine }>()
const crop = computed(() => props.line.crop)
const found = useQuery({ queryKey: ['harvests', crop], queryFn: () => harvestsOf(crop.value) })
const home = useHome()
const act = useAct()
const { kilos, unkilo, written, productUnit } = useWriting()
const year = ref<number | null>(Number((home.data.value?.today ?? '2026').slice(0, 4)))
const plants = ref<number | null>(null)
const mass = ref<number | null>(null)
const shown = (kg: number) => written(Math.round(100 * unkilo(kg)) / 100)
const a = computed(() => found.data.value?.by_plant)
async function note() {
  if (year.value === null || plants.value === null || mass.value === null) return
  const said = `${many(plants.value, 'plant')} of ${props.line.crop_name} gave ${mass.value} in ${year.value}`
  const body = {
    crop: crop.value,
    year: year.value,
    plants: plants.value,
    mass_kg: kilos(mass.value),
    note: '',
  }
  if (await act.run(said, () => noteHarvest(body))) plants.value = mass.value = null
}
</script>

<template>
  <div class="harvest small">
    <p v-if="a">
      A plant gives {{ shown(a.mid) }} {{ productUnit('kg') }}, likely {{ shown(a.low) }}–{{ shown(a.high) }}
      <span class="soft">({{ a.note }})</span>
    </p>
    <ul v-if="found.data.value?.lines.length">
      <li v-for="h in found.data.value.lines" :key="h.harvest_id">
        {{ h.year }}: {{ many(h.plants, 'plant') }} gave {{ shown(h.mass_kg) }} {{ productUnit('kg') }}
        <AButton
          type="link"
          size="small"
          @click="act.run(`Took the harvest of ${h.year} off`, () => dropHarvest(h.harvest_id))"
          >off</AButton
        >
      </li>
    </ul>
    <form class="note" @submit.prevent="note">
      <Num v-model="year" whole :min="1950" aria-label="year of the harvest" />
      <Num v-model="plants" whole :min="1" unit="plants" aria-label="plants harvested" />
      <Num v-model="mass" :min="0" :unit="productUnit('kg')" aria-label="what they gave" />
      <AButton
        html-type="submit"
        size="small"
        :disabled="year === null || plants === null || mass === null || act.busy.value"
        >Note a harvest</AButton
      >
    </form>
  </div>
</template>

<style scoped>
.harvest {
  border-top: 1px solid var(--hair-soft);
  margin-top: 10px;
  padding-top: 8px;
}
ul {
  padding-left: 16px;
  margin: 4px 0;
}
.note {
  display: grid;
  grid-template-columns: 0.8fr 1.2fr 1fr;
  gap: 6px;
  align-items: center;
}
.note button {
  grid-column: 1 / 4;
  justify-self: start;
}
</style>
