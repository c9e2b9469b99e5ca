<script setup lang="ts">
import { computed } from 'vue'
import { useGrowing } from '../../api/queries'
import { useNew } from '../../parts/keys'
import { useSheet } from '../../parts/sheets'
import { day } from '../../parts/words'
import SowForm from '../stock/forms/SowForm.vue'
import RoomHead from '../../parts/RoomHead.vue'
import YearsView from './YearsView.vue'

const sheet = useSheet()
useNew('sow some packets', () => (sheet.value = 'sow'))
const growing = useGrowing()
const data = computed(() => growing.data.value)
const DUE = [
  { key: 'lot', title: 'packet' },
  { key: 'sown', title: 'sown', small: 'sown' },
  { key: 'up', title: 'up so far', small: 'up so far' },
  { key: 'says', title: 'expected' },
]
const UP = [
  { key: 'lot', title: 'packet' },
  { key: 'sown', title: 'sown', small: 'sown' },
  { key: 'up', title: 'came up', small: 'came up' },
  { key: 'says', title: 'the bed, and the seed' },
]
</script>

<template>
  <section>
    <RoomHead title="Growing">
      <span v-if="data" class="soft"
        >{{ data.due.length ? `${data.due.length} sowings are being watched. ` : ''
        }}{{ data.regrow.length }} kept lines want regrowing in the years ahead.</span
      >
      <span class="spring" />
      <RouterLink class="btn quiet" to="/growing/calendar">The sowing calendar</RouterLink>
      <AButton type="primary" @click="sheet = 'sow'">Sow <kbd>n</kbd></AButton>
    </RoomHead>
    <SowForm v-if="sheet === 'sow'" @close="sheet = ''" />
    <RoomState :query="growing" />
    <template v-if="data">
      <h2>Sown, not yet up</h2>
      <p v-if="!data.due.length" class="soft">
        Nothing is waiting. Sow from a packet’s own page; what is due then stands here and in
        <RouterLink to="/today">Today</RouterLink>.
      </p>
      <DataTable v-else :rows="data.due" :columns="DUE" by="sowing_id">
        <template #lot="{ row }">
          <RouterLink :to="`/stock/${row.lot_id}`"
            ><span class="code">{{ row.code }}</span> {{ row.variety }}</RouterLink
          >
          <span class="soft"> {{ row.kind_name }}</span>
        </template>
        <template #sown="{ row }">{{ row.n }} {{ row.setting }}, {{ day(row.sown_s) }}</template>
        <template #up="{ row }">{{ row.counted ? `${row.up} of ${row.n}` : 'not looked at yet' }}</template>
        <template #says="{ row }"
          ><span :class="{ act: row.state === 'overdue' }">{{ row.state }}: {{ row.says }}</span></template
        >
      </DataTable>
      <template v-if="data.came_up.length">
        <h2>What came up</h2>
        <DataTable :rows="data.came_up" :columns="UP" by="sowing_id" label="what came up">
          <template #lot="{ row }">
            <RouterLink :to="`/stock/${row.lot_id}`"
              ><span class="code">{{ row.code }}</span> {{ row.variety }}</RouterLink
            >
            <span class="soft"> {{ row.kind_name }}</span>
          </template>
          <template #sown="{ row }">{{ row.n }} {{ row.setting }}, {{ day(row.sown_s) }}</template>
          <template #up="{ row }">{{ row.up }} of {{ row.n }}</template>
          <template #says="{ row }">{{ row.says }}</template>
        </DataTable>
      </template>
      <p v-if="!data.rows.length" class="soft">
        Mark a packet as a line to keep, and its last safe year is worked out from all its seed.
      </p>
      <YearsView v-else :room="data" />
    </template>
  </section>
</template>

<style scoped>
h2 {
  margin: 14px 0 6px;
}
</style>
