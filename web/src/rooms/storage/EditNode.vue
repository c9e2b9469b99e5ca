<script setup lang="ts">
import { ref } from 'vue'
import { api, take, type Box } from '../../api/client'
import { useAct, useStorageKinds } from '../../api/queries'

/** What is written of a place or container: its name, kind, room, and what it held before. */
const props = defineProps<{ box: Box }>()
const act = useAct()
const kinds = useStorageKinds()
const open = ref(false)
const name = ref('')
const kind = ref('')
const room = ref('')
const former = ref('')
function begin() {
  name.value = props.box.name
  kind.value = props.box.kind
  room.value = props.box.capacity_lots ? String(props.box.capacity_lots) : ''
  former.value = props.box.former_use ?? ''
  open.value = true
}
async function save() {
  const container = props.box.role === 'container'
  const done = await act.runAsking(`Changed ${name.value}`, (anyway) =>
    take(
      api.PATCH('/api/storage/nodes/{node_id}', {
        params: { path: { node_id: props.box.node_id } },
        body: {
          name: name.value,
          capacity_lots: room.value ? Number(room.value) : null,
          former_use: former.value || null,
          anyway,
          container_kind: container && kind.value !== props.box.kind ? kind.value : null,
          version: props.box.version,
        },
      }),
    ),
  )
  if (done) open.value = false
}
</script>

<template>
  <button v-if="!open" class="btn link" type="button" @click="begin">change it</button>
  <form v-else class="row small" @submit.prevent="save">
    <label class="field">name<input v-model="name" /></label>
    <template v-if="box.role === 'container'">
      <label class="field"
        >kind
        <select v-model="kind">
          <option v-for="(_, k) in kinds.data.value?.containers" :key="k" :value="k">
            {{ kinds.data.value?.names[k]?.slice(0, 3).join(', ') ?? k }}
          </option>
        </select>
      </label>
      <label class="field">room for lots<input v-model="room" inputmode="numeric" /></label>
      <label class="field">held before<input v-model="former" /></label>
    </template>
    <button class="btn quiet" type="submit" :disabled="!name.trim() || act.busy.value">Save</button>
    <button class="btn link" type="button" @click="open = false">leave it</button>
  </form>
</template>

<style scoped>
.row {
  align-items: flex-end;
}
input {
  width: 130px;
}
select {
  max-width: 190px;
}
</style>
