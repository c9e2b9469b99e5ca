<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { computed, ref } from 'vue'
import { api, take } from '../../api/client'
import { useAct } from '../../api/queries'
import { planMoves } from './acts'

/** Who should lie in the few good places; one touch puts the moves on today's list. */
const emit = defineEmits<{ close: [] }>()
const act = useAct()
const best = useQuery({
  queryKey: ['best-use'],
  queryFn: () => take(api.GET('/api/storage/best-use')),
})
const left = ref<Set<number>>(new Set())
const chosen = computed(() => (best.data.value?.moves ?? []).filter((m) => !left.value.has(m.lot_id)))
function toggle(id: number) {
  const next = new Set(left.value)
  if (!next.delete(id)) next.add(id)
  left.value = next
}
async function plan() {
  const moves = chosen.value.map((m) => ({ lot_id: m.lot_id, node_id: m.to_node_id }))
  const done = await act.run(`Planned ${moves.length} moves for today`, () => planMoves(moves))
  if (done) emit('close')
}
const COLUMNS = [
  { key: 'go', width: 44 },
  { key: 'lot', title: 'packet' },
  { key: 'from', title: 'from', small: 'from' },
  { key: 'to', title: 'to', small: 'to' },
  { key: 'why', title: 'why' },
]
</script>

<template>
  <Sheet open title="Best use of the good places" :width="860" @close="emit('close')">
    <p v-if="best.isPending.value" class="soft">Weighing every packet against every place…</p>
    <p v-else-if="best.isError.value" role="alert">{{ best.error.value?.message }}</p>
    <template v-else-if="best.data.value">
      <p v-if="best.data.value.places.length">
        <span v-for="p in best.data.value.places" :key="p.node_id" class="place"
          ><strong>{{ p.path }}</strong> {{ p.lots }} of {{ p.capacity_lots }}, seed ages
          {{ Math.round(100 * p.speed) }} % as fast there as in a bedroom</span
        >
      </p>
      <p v-if="!best.data.value.moves.length"><strong>Nothing to move.</strong> {{ best.data.value.note }}</p>
      <template v-else>
        <p>
          These {{ best.data.value.moves.length }} moves would keep about
          <strong>{{ Math.round(best.data.value.saved_seeds) }} more seeds alive</strong> in
          {{ best.data.value.horizon_years }} years.
        </p>
        <DataTable :rows="best.data.value.moves" :columns="COLUMNS" by="lot_id" height="46vh">
          <template #go="{ row }">
            <ACheckbox
              :checked="!left.has(row.lot_id)"
              :aria-label="`move ${row.code}`"
              @change="toggle(row.lot_id)"
            />
          </template>
          <template #lot="{ row }">
            <span class="code">{{ row.code }}</span> {{ row.name }}
            <span class="soft">{{ row.kind_name }}</span>
          </template>
          <template #from="{ row }">{{ row.from_path }}</template>
          <template #to="{ row }">{{ row.to_path }}</template>
          <template #why="{ row }">{{ row.why }}</template>
        </DataTable>
        <p class="small soft">{{ best.data.value.note }}</p>
        <div class="row end">
          <AButton type="primary" :disabled="!chosen.length || act.busy.value" @click="plan">
            Put {{ chosen.length }} moves on today’s list
          </AButton>
        </div>
      </template>
    </template>
  </Sheet>
</template>

<style scoped>
.place {
  display: inline-block;
  margin-right: 18px;
}
.end {
  justify-content: flex-end;
}
</style>
