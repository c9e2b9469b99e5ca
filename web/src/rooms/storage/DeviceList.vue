<script setup lang="ts">
import { ref } from 'vue'
import type { Schemas } from '../../api/client'
import { useAct } from '../../api/queries'
import { day } from '../../parts/words'
import { addDevice, revokeDevice } from './acts'

/** Loggers that send by themselves: last heard of, battery, and a token shown once. */
const props = defineProps<{ nodeId: number; devices: Schemas['DeviceLine'][] }>()
const act = useAct()
const adding = ref(false)
const name = ref('')
const token = ref('')
async function add() {
  const done = await act.run(`Registered the logger ${name.value}`, () => addDevice(name.value, props.nodeId))
  if (!done) return
  token.value = String(done.result.token)
  name.value = ''
  adding.value = false
}
async function revoke(d: Schemas['DeviceLine']) {
  await act.run(`${d.name} may not send any more`, () => revokeDevice(d.device_id, d.version))
}
</script>

<template>
  <div>
    <ul class="list small">
      <li v-for="d in devices" :key="d.device_id">
        <strong>{{ d.name }}</strong>
        <template v-if="d.revoked"> · may not send any more</template>
        <template v-else>
          ·
          <span v-if="d.last_seen_s">heard of {{ day(d.last_seen_s) }}</span
          ><span v-else>not heard of yet</span
          ><template v-if="d.battery_pct !== null && d.battery_pct !== undefined">
            · battery {{ Math.round(d.battery_pct) }} %</template
          ><template v-if="d.refused"> · {{ d.refused }} senseless rows refused</template>
          <AButton type="link" @click="revoke(d)">take its token away</AButton>
        </template>
      </li>
    </ul>
    <p v-if="token" class="token card small" role="status">
      Its token, shown this once: <code>{{ token }}</code><br />It sends to <code>/api/ingest/readings</code>.
      To try:
      <code>larder simulate-logger --token {{ token.slice(0, 6) }}…</code>
      <AButton type="link" @click="token = ''">I have it</AButton>
    </p>
    <form v-if="adding" class="row small" @submit.prevent="add">
      <TextField v-model="name" label="its name" placeholder="mill-c" />
      <AButton type="primary" ghost html-type="submit" :disabled="!name.trim() || act.busy.value"
        >Register</AButton
      >
    </form>
    <AButton v-else type="link" size="small" @click="adding = true"> a logger that sends by itself </AButton>
  </div>
</template>

<style scoped>
.list {
  list-style: none;
  margin: 0;
  padding: 0;
}
.token code {
  overflow-wrap: anywhere;
}
.row {
  align-items: flex-end;
}
</style>
