<script setup lang="ts">
import { computed } from 'vue'
import type { Schemas } from '../../api/client'
import { useAxis } from '../../parts/axis'
import { middle, percent, year } from '../../parts/words'

/** What would change if it stood elsewhere, and the move a touch away. */
const props = defineProps<{ page: Schemas['LotPage'] }>()
const emit = defineEmits<{ move: [node: number, name: string] }>()
const { level } = useAxis()
type Move = { node_id: number | null; name: string; sowing: string; until: string; caution?: string }
const moves = computed<Move[]>(() => {
  const here = props.page.line.glance
  const beyond = 'longer than can be said'
  return [
    {
      node_id: null,
      name: 'stays here',
      sowing: here.at_sowing ? middle(here.at_sowing.mid, here.at_sowing.step) : '–',
      until: here.good_beyond || !here.good_until_s ? beyond : year(here.good_until_s),
    },
    ...props.page.elsewhere.map((e) => ({
      node_id: e.node_id,
      name: e.name,
      sowing: e.at_sowing ? middle(e.at_sowing.mid, e.at_sowing.step) : '–',
      until: e.good_until_s ? year(e.good_until_s) : beyond,
      caution: e.caution,
    })),
  ]
})
const MOVES = computed(() => [
  { key: 'to', title: 'if it moved now to' },
  { key: 'sowing', title: 'at sowing', small: 'at sowing' },
  { key: 'until', title: `${percent(level.value)} until`, small: `${percent(level.value)} until` },
  { key: 'do' },
])
</script>

<template>
  <DataTable :rows="moves" :columns="MOVES" :by="(m) => m.node_id ?? 0">
    <template #to="{ row }">
      {{ row.name }}
      <div v-if="row.caution" class="small act">{{ row.caution }}</div>
    </template>
    <template #sowing="{ row }">{{ row.sowing }}</template>
    <template #until="{ row }">{{ row.until }}</template>
    <template #do="{ row }">
      <AButton
        v-if="row.node_id"
        type="link"
        :aria-label="`move it to ${row.name}`"
        @click="emit('move', row.node_id, row.name)"
      >
        move it
      </AButton>
    </template>
  </DataTable>
</template>
