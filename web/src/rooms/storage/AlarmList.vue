<script setup lang="ts">
import type { Schemas } from '../../api/client'
import { useAct, useHome } from '../../api/queries'
import { setJobs } from '../today/acts'

/** Alarms with their evidence and what to do; a quiet week for one cause is one touch away. */
const props = defineProps<{ alarms: Schemas['AlarmLine'][]; here?: boolean }>()
const act = useAct()
const home = useHome()
async function quiet(a: Schemas['AlarmLine']) {
  const now = Date.parse(home.data.value?.today ?? '') / 1000
  await act.run(`${a.title}: quiet for a week`, () =>
    setJobs([a.key], 'moved', { moved_to_s: now + 8 * 86_400 }),
  )
}
const words = (a: Schemas['AlarmLine']) => (props.here ? a.title.split(': ').slice(1).join(': ') : a.title)
</script>

<template>
  <ul v-if="alarms.length" class="alarms" aria-label="Alarms">
    <li v-for="a in alarms" :key="a.key" :class="{ high: a.urgency >= 3 }">
      <RouterLink v-if="!here" :to="`/storage/${a.node_id}`" class="title">{{ words(a) }}</RouterLink>
      <strong v-else class="title">{{ words(a).charAt(0).toUpperCase() + words(a).slice(1) }}</strong>
      <span class="small">
        {{ a.evidence }} <b>{{ a.todo }}</b>
      </span>
      <AButton type="link" size="small" :disabled="act.busy.value" @click="quiet(a)">
        quiet for a week
      </AButton>
    </li>
  </ul>
</template>

<style scoped>
.alarms {
  list-style: none;
  margin: 0 0 12px;
  padding: 0;
}
li {
  border-left: 4px solid var(--warm);
  background: var(--warm-wash);
  padding: 5px 10px;
  margin-bottom: 4px;
  display: flex;
  flex-wrap: wrap;
  gap: 2px 10px;
  align-items: baseline;
}
li.high {
  border-left-color: var(--act);
  background: var(--act-wash);
}
.title {
  font-weight: 650;
}
b {
  font-weight: 600;
}
</style>
