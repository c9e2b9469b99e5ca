<script setup lang="ts">
import { useGaps } from '../../api/queries'

/** What can be sown month by month from what is in hand; gaps need no target. */
const gaps = useGaps()
const COLUMNS = [{ key: 'month' }, { key: 'lots' }, { key: 'kinds' }]
</script>

<template>
  <APopover v-if="gaps.data.value" trigger="click" placement="bottomRight">
    <AButton type="link">{{ gaps.data.value.says[0] ?? 'Sowing months' }}</AButton>
    <template #content>
      <div class="panel" role="dialog" aria-label="What can be sown, month by month">
        <p v-for="s in gaps.data.value.says" :key="s" class="act">{{ s }}</p>
        <DataTable :rows="gaps.data.value.months" :columns="COLUMNS" by="month">
          <template #month="{ row }"
            ><strong>{{ row.month }}</strong></template
          >
          <template #lots="{ row }">{{ row.lots || 'none' }}</template>
          <template #kinds="{ row }"
            ><span class="soft"
              >{{ row.kinds.slice(0, 7).join(', ')
              }}{{ row.kinds.length > 7 ? ` and ${row.kinds.length - 7} more` : '' }}</span
            ></template
          >
        </DataTable>
        <p class="small soft">
          Packets in hand, meant for seed and above the level you sow at; windows from your frost dates and
          the book.
        </p>
      </div>
    </template>
  </APopover>
</template>

<style scoped>
.panel {
  width: min(560px, 86vw);
  max-height: 66vh;
  overflow: auto;
}
</style>
