<script setup lang="ts">
import { computed, ref } from 'vue'
import { api, take, type Box } from '../../api/client'
import { useAct, useStorageKinds } from '../../api/queries'
import Modal from '../../parts/Modal.vue'

const props = defineProps<{ open: boolean; all: Box[] }>()
const emit = defineEmits<{ close: [] }>()
const act = useAct()
const kinds = useStorageKinds()
const what = ref<'place' | 'container'>('place')
const name = ref('')
// chosen by what people call it; the kind is what is reckoned with
const placeCalled = ref('larder|larder')
const containerCalled = ref('metal_tin_plain|biscuit tin')
const place = computed(() => placeCalled.value.split('|')[0] ?? '')
const container = computed(() => containerCalled.value.split('|')[0] ?? '')
const called = (kinds_: Record<string, string> | undefined) =>
  Object.keys(kinds_ ?? {})
    .flatMap((kind) =>
      (kinds.data.value?.names[kind] ?? [kind]).map((name) => ({ name, key: `${kind}|${name}` })),
    )
    .sort((a, b) => a.name.localeCompare(b.name))
const parent = ref<number | null>(null)
const room = ref('')
const former = ref('')
const about = computed(() =>
  what.value === 'place'
    ? kinds.data.value?.places[place.value]
    : kinds.data.value?.containers[container.value],
)
async function save() {
  const inside = what.value === 'container'
  const done = await act.runAsking(`Added ${name.value}`, (anyway) =>
    take(
      api.POST('/api/storage/nodes', {
        body: {
          name: name.value,
          place_kind: inside ? null : place.value,
          container_kind: inside ? container.value : null,
          parent_id: inside ? (parent.value ?? props.all[0]?.node_id ?? null) : null,
          capacity_lots: room.value ? Number(room.value) : null,
          former_use: former.value || null,
          anyway,
        },
      }),
    ),
  )
  if (done) {
    name.value = room.value = former.value = ''
    emit('close')
  }
}
</script>

<template>
  <Modal :open="open" title="Add a place or a container" @close="emit('close')">
    <form class="form" @submit.prevent="save">
      <div class="row" role="radiogroup" aria-label="What">
        <label><input v-model="what" type="radio" value="place" /> a place: room, cellar, freezer</label>
        <label v-if="all.length"
          ><input v-model="what" type="radio" value="container" /> a container in it: tin, jar, box</label
        >
      </div>
      <label class="field">name<input v-model="name" placeholder="Stone larder" /></label>
      <label v-if="what === 'place'" class="field"
        >kind of place
        <select v-model="placeCalled">
          <option v-for="c in called(kinds.data.value?.places)" :key="c.key" :value="c.key">
            {{ c.name }}
          </option>
        </select>
      </label>
      <template v-else>
        <label class="field"
          >kind of container
          <select v-model="containerCalled">
            <option v-for="c in called(kinds.data.value?.containers)" :key="c.key" :value="c.key">
              {{ c.name }}
            </option>
          </select>
        </label>
        <label class="field"
          >stands in
          <select v-model="parent">
            <option v-for="b in all" :key="b.node_id" :value="b.node_id">{{ b.path }}</option>
          </select>
        </label>
        <label class="field"
          >room for how many packets, if you like<input v-model="room" inputmode="numeric"
        /></label>
        <label class="field">what did it hold before?<input v-model="former" placeholder="biscuits" /></label>
      </template>
      <p class="small soft">{{ about }}</p>
      <button class="btn" type="submit" :disabled="!name.trim() || act.busy.value">Add</button>
    </form>
  </Modal>
</template>

<style scoped>
.form {
  display: flex;
  flex-direction: column;
  gap: 10px;
}
.form > .btn {
  align-self: flex-end;
}
</style>
