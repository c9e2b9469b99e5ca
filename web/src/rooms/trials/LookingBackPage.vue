<script setup lang="ts">
import { computed } from 'vue'
import type { Schemas } from '../../api/client'
import { useAct, useLookingBack } from '../../api/queries'
import type { Column } from '../../parts/DataTable.vue'
import { believed, day, many, percent } from '../../parts/words'
import RoomHead from '../../parts/RoomHead.vue'
import { takeFigure } from './acts'
import ForecastBar from './ForecastBar.vue'

/** Was it right? Forecasts that were kept when each test began, against what it showed. */
const back = useLookingBack()
const act = useAct()
const take = (o: Schemas['Offer']) =>
  act.run(`${o.kind.replaceAll('_', ' ')}: ${o.offered} % of new seed comes up`, () => takeFigure(o))
const groups = computed(
  () =>
    [
      ['By kind', back.data.value?.by_kind ?? []],
      ['By place', back.data.value?.by_place ?? []],
    ] as const,
)
const GROUP: Column<Schemas['Group']>[] = [
  { key: 'name', title: 'of', by: (g) => g.name },
  { key: 'tests', title: 'tests', small: 'tests', by: (g) => g.tests },
  { key: 'held', title: 'within the range', small: 'within the range', by: (g) => g.held },
  { key: 'says', title: 'how they came', by: (g) => g.bias },
]
const TESTS: Column<Schemas['Past']>[] = [
  { key: 'code', title: 'test' },
  { key: 'seed', title: 'packet', by: (t) => t.lot_code },
  { key: 'when', title: 'sown', by: (t) => t.sown_s },
  { key: 'bar', title: 'forecast and count', width: 240 },
  { key: 'result', title: 'counted', small: 'counted', by: (t) => t.up / t.n },
  { key: 'before', title: 'thought before', small: 'before', by: (t) => t.before.mid },
  { key: 'age', title: 'by the age rule', small: 'age rule' },
]
</script>

<template>
  <section>
    <RoomHead title="Was it right?" back="Tests" to="/tests">
      <span class="soft">What was forecast when each test began, against what it showed.</span>
    </RoomHead>
    <RoomState :query="back" />
    <template v-if="back.data.value">
      <p class="verdict">{{ back.data.value.says }}</p>
      <template v-if="back.data.value.record">
        <p>{{ back.data.value.against_age }}</p>
        <p class="soft small">
          Ranges were {{ Math.round(100 * back.data.value.record.width) }} points wide at the middle one.
          Counts came {{ Math.abs(Math.round(100 * back.data.value.record.bias)) }} points
          {{ back.data.value.record.bias < 0 ? 'lower' : 'higher' }} than forecast on average.
        </p>
      </template>
      <template v-if="back.data.value.own.length">
        <h2>Where this house differs from the book</h2>
        <ul>
          <li v-for="o in back.data.value.own" :key="o.kind">{{ o.says }}</li>
        </ul>
      </template>
      <template v-if="back.data.value.offers.length">
        <h2>Figures that could be overruled</h2>
        <p v-for="o in back.data.value.offers" :key="o.kind + o.field">
          {{ o.says }}
          <AButton size="small" :disabled="act.busy.value" @click="take(o)">Take {{ o.offered }} %</AButton>
        </p>
      </template>
      <div v-if="back.data.value.by_kind.length" class="two">
        <div v-for="[title, rows] in groups" :key="title">
          <h2>{{ title }}</h2>
          <DataTable :rows :columns="GROUP" by="name">
            <template #name="{ row }">{{ row.name }}</template>
            <template #tests="{ row }">{{ row.tests }}</template>
            <template #held="{ row }">{{ percent(row.held) }}</template>
            <template #says="{ row }">{{ row.says }}</template>
          </DataTable>
        </div>
      </div>
      <template v-if="back.data.value.tests.length">
        <h2>{{ many(back.data.value.tests.length, 'test') }}</h2>
        <p class="small soft">Frame: the range forecast, with its middle. Ring: what was counted.</p>
        <DataTable :rows="back.data.value.tests" :columns="TESTS" by="trial_id">
          <template #code="{ row }"
            ><span class="code">{{ row.code }}</span></template
          >
          <template #seed="{ row }"
            ><span class="code">{{ row.lot_code }}</span> {{ row.variety }}
            <span class="soft">{{ row.kind_name }}, {{ row.place }}</span></template
          >
          <template #when="{ row }">{{ day(row.sown_s, true) }}</template>
          <template #bar="{ row }"><ForecastBar :before="row.before" :share="row.up / row.n" /></template>
          <template #result="{ row }">{{ row.up }} of {{ row.n }}</template>
          <template #before="{ row }">{{ believed(row.before) }}</template>
          <template #age="{ row }">{{ row.by_age ? percent(row.by_age) : 'dead' }}</template>
        </DataTable>
      </template>
    </template>
  </section>
</template>

<style scoped>
h2 {
  margin: 16px 0 6px;
}
.verdict {
  font: 600 18px/1.4 var(--serif);
  max-width: 62ch;
}
.two {
  display: grid;
  grid-template-columns: repeat(auto-fit, minmax(340px, 1fr));
  gap: 0 24px;
}
</style>
