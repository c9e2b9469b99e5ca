<script setup lang="ts">
import { useSaving } from '../../api/queries'
import type { Schemas } from '../../api/client'
import type { Column } from '../../parts/DataTable.vue'
import { useWriting } from '../../parts/writing'
import RoomHead from '../../parts/RoomHead.vue'

const saving = useSaving()
const { about, distance } = useWriting()
const COLUMNS: Column<Schemas['SavingLine']>[] = [
  { key: 'line', title: 'line', by: (s) => s.variety },
  { key: 'mothers', title: 'mothers', small: 'mothers', by: (s) => s.mothers_least },
  { key: 'apart', title: 'apart', small: 'apart', by: (s) => s.isolation_home_m },
  { key: 'cross', title: 'could cross here with', small: 'could cross with' },
  { key: 'clean', title: 'picking and cleaning', small: 'cleaning' },
  { key: 'dry', title: 'drying', small: 'drying' },
]
</script>

<template>
  <section>
    <RoomHead title="Saving">
      <span class="soft"
        >What the book asks for each line you keep: mothers, distance, cleaning, drying.</span
      >
    </RoomHead>
    <RoomState :query="saving" />
    <template v-if="saving.data.value">
      <AEmpty v-if="!saving.data.value.length" description="No line is kept yet.">
        On a packet’s page, “Put right” has “a line to keep”: it stands here then.
      </AEmpty>
      <DataTable v-else :rows="saving.data.value" :columns="COLUMNS" by="variety">
        <template #line="{ row }">
          <RouterLink :to="`/stock/${row.lot_ids[0]}`" class="name">{{ row.variety }}</RouterLink>
          <div class="small soft">{{ row.kind_name }} · {{ row.lots.join(' + ') }}</div>
        </template>
        <template #mothers="{ row }">
          {{ row.mothers_least }}, better {{ row.mothers_good }}
          <div v-if="row.seasons > 1" class="small soft">two seasons</div>
        </template>
        <template #apart="{ row }">
          {{ distance(row.isolation_home_m) }}, strictly {{ distance(row.isolation_strict_m) }}
          <div class="small soft">
            {{ row.pollination === 'self' ? 'pollinates itself' : `by ${row.pollination}` }}
          </div>
        </template>
        <template #cross="{ row }">{{ row.crosses_with.join(', ') || 'nothing in your stock' }}</template>
        <template #clean="{ row }">
          {{ row.method }}
          <div class="small soft">
            about {{ row.ripe_after_days }} days after eating stage; {{ row.seed_per_plant }} a plant
          </div>
        </template>
        <template #dry="{ row }">{{ row.drying_days }} days in moving air, under {{ about(35) }}</template>
      </DataTable>
    </template>
    <p class="small soft">
      Dust when winnowing: mind eyes and lungs. Hot peppers: gloves. Sick mother plants pass it on. Distances
      below the book’s warn, they do not forbid.
    </p>
  </section>
</template>
