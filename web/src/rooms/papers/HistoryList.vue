<script setup lang="ts">
import { computed } from 'vue'
import { useActs, useUndo } from '../../api/queries'
import { day, iso } from '../../parts/words'

/** Every act, newest first, with its take-back. */
const acts = useActs()
const { undo } = useUndo()
const nowS = computed(() => Date.now() / 1000)
</script>

<template>
  <RoomState v-slot="{ data }" :query="acts">
    <AEmpty v-if="!data.length" description="Nothing yet." />
    <ATimeline v-else class="history">
      <ATimelineItem v-for="a in data" :key="a.act_id" color="gray" :class="{ undone: a.undone }">
        <span class="soft" :title="iso(a.at_s)">{{
          day(a.at_s, Math.abs(nowS - a.at_s) > 300 * 86400)
        }}</span>
        {{ a.summary }}<span v-if="a.who" class="soft"> · {{ a.who }}</span>
        <span v-if="a.undone" class="soft"> (taken back)</span>
        <AButton v-if="a.undoable" type="link" size="small" @click="undo(a.act_id, a.summary)">
          {{ a.is_undo ? 'do again' : 'take back' }}
        </AButton>
      </ATimelineItem>
    </ATimeline>
  </RoomState>
</template>

<style scoped>
.history {
  padding: 8px 2px;
}
.undone {
  color: var(--soft);
}
</style>
