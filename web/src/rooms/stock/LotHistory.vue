<script setup lang="ts">
import { ref } from 'vue'
import type { Schemas } from '../../api/client'
import { useUndo } from '../../api/queries'
import { useAxis } from '../../parts/axis'
import { day, iso } from '../../parts/words'

/** What was done with it, newest first, each with its take-back while that is in reach. */
defineProps<{ history: Schemas['LotPage']['history'] }>()
const { undo } = useUndo()
const { nowS } = useAxis()
const all = ref(false)
const REACH_S = 90 * 86_400
const FIRST = 8
</script>

<template>
  <ATimeline class="history">
    <ATimelineItem v-for="h in all ? history : history.slice(0, FIRST)" :key="h.act_id" color="gray">
      <span class="soft" :title="iso(h.at_s)">{{ day(h.at_s, true) }}</span> {{ h.summary
      }}<span v-if="h.who" class="soft"> · {{ h.who }}</span>
      <AButton v-if="nowS - h.at_s < REACH_S" type="link" size="small" @click="undo(h.act_id, h.summary)">
        take back
      </AButton>
    </ATimelineItem>
  </ATimeline>
  <AButton v-if="history.length > FIRST" type="link" @click="all = !all">
    {{ all ? 'fewer' : `all ${history.length}` }}
  </AButton>
</template>

<style scoped>
.history {
  padding: 8px 0 0 2px;
}
</style>
