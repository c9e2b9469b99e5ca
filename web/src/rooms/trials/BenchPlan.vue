<script setup lang="ts">
import { ref } from 'vue'
import type { Schemas } from '../../api/client'
import { useAxis } from '../../parts/axis'
import { day } from '../../parts/words'
import { useWriting } from '../../parts/writing'
import TestManyForm from '../stock/forms/TestManyForm.vue'
import { MEDIA } from './acts'
import SpotsForm from './SpotsForm.vue'

/** The evenings on which tests are set up: what stands where, what comes first, and the sheet to print. */
defineProps<{ plan: Schemas['BenchPlan'] }>()
const { nowS } = useAxis()
const { about } = useWriting()
const open = ref<Record<string, boolean>>({})
const shows = (e: Schemas['Evening'], i: number) => open.value[e.day] ?? i === 0
const starting = ref<Schemas['Evening'] | null>(null)
const spots = ref(false)
const when = (e: Schemas['Evening']) => (e.day_s <= nowS.value + 86400 ? 'This evening' : day(e.day_s))
const medium = (m: string) => MEDIA[m as keyof typeof MEDIA] ?? m
const COLUMNS = [
  { key: 'where', title: 'where', width: 290 },
  { key: 'lot', title: 'packet' },
  { key: 'how', title: 'how' },
  { key: 'look', title: 'look' },
  { key: 'why' },
]
</script>

<template>
  <section class="plan" aria-label="the bench planned">
    <div v-for="(e, i) in plan.evenings" :key="e.day" class="evening" :data-evening="e.day">
      <div class="row top">
        <h3>{{ when(e) }}</h3>
        <span class="small soft">{{
          e.latest_s > e.day_s + 86400 ? `at the latest ${day(e.latest_s)}` : 'not later'
        }}</span>
        <AButton type="link" size="small" :aria-expanded="shows(e, i)" @click="open[e.day] = !shows(e, i)">{{
          shows(e, i) ? 'fold' : `show the ${e.tests.length}`
        }}</AButton>
        <span class="spring" />
        <a class="btn quiet" :href="`/api/tests/evening.pdf?day=${e.day}`" target="_blank" rel="noopener"
          >Print the sheet</a
        >
        <AButton type="primary" ghost @click="starting = e">Sown: start these</AButton>
      </div>
      <p class="small soft">{{ e.why }}</p>
      <DataTable
        v-if="shows(e, i)"
        :rows="e.tests"
        :columns="COLUMNS"
        by="lot_id"
        :label="`tests of ${e.day}`"
      >
        <template #where="{ row }"
          >{{ row.spot }}, {{ about(row.temperature_c) }}
          <span class="soft">box {{ row.box }}, layer {{ row.layer }}</span></template
        >
        <template #lot="{ row }">
          <RouterLink :to="`/stock/${row.lot_id}`"
            ><span class="code">{{ row.code }}</span> {{ row.variety }}</RouterLink
          >
          <span class="soft"> {{ row.kind_name }}</span>
        </template>
        <template #how="{ row }"
          >{{ row.seeds }} seeds, {{ medium(row.medium)
          }}<template v-if="row.light !== 'either'"
            >, {{ row.light === 'light' ? 'in light' : 'dark' }}</template
          ><template v-if="row.cold_days"
            >, {{ Math.round(row.cold_days) }} days cold first</template
          ></template
        >
        <template #look="{ row }"
          ><span class="soft">day {{ row.first_day }} to {{ row.last_day }}</span></template
        >
        <template #why="{ row }"><Why :lines="[{ text: row.why }]" /></template>
      </DataTable>
    </div>
    <p v-for="x in plan.left" :key="x.lot_id" class="small act">
      <span class="code">{{ x.code }}</span> {{ x.variety }}: {{ x.why }}
    </p>
    <p class="small soft">
      {{ plan.says }} Spots:
      <template v-for="(s, i) in plan.spots" :key="s.name"
        >{{ i ? ', ' : '' }}{{ s.name }} {{ about(s.temperature_c) }} ({{ s.boxes }} x
        {{ s.layers }} layers)</template
      ><template v-if="!plan.spots.some((s) => s.spot_id)">, as most houses have them</template>.
      <AButton type="link" size="small" @click="spots = true">Say yours</AButton>
    </p>
    <TestManyForm
      v-if="starting"
      :lots="starting.tests.map((t) => ({ lot_id: t.lot_id, code: t.code, variety: t.variety }))"
      @close="starting = null"
      @done="starting = null"
    />
    <SpotsForm v-if="spots" :spots="plan.spots" @close="spots = false" />
  </section>
</template>

<style scoped>
.evening {
  border-top: 2px solid var(--shelf);
  margin-top: 10px;
  padding-top: 6px;
}
.evening h3,
.evening p {
  margin: 0;
}
.top {
  gap: 8px 12px;
  align-items: baseline;
}
</style>
