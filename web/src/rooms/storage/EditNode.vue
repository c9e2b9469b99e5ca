<script setup lang="ts">
import { computed, ref } from 'vue'
import type { Box } from '../../api/client'
import { useStorageKinds } from '../../api/queries'
import ActForm from '../../parts/ActForm.vue'
import { changeNode } from './acts'

/** What is written of a place or container: its name, kind, room, and what it held before. */
const props = defineProps<{ box: Box }>()
const kinds = useStorageKinds()
const name = ref(props.box.name)
const kind = ref<string>(props.box.kind)
const room = ref<number | null>(props.box.capacity_lots ?? null)
const former = ref(props.box.former_use ?? '')
const container = computed(() => props.box.role === 'container')
const choices = computed(() =>
  Object.keys(kinds.data.value?.containers ?? {}).map((value) => ({
    value,
    label: kinds.data.value?.names[value]?.slice(0, 3).join(', ') ?? value.replaceAll('_', ' '),
  })),
)
const words = () => `Changed ${name.value}`
const call = (anyway: boolean) =>
  changeNode(props.box.node_id, {
    name: name.value,
    capacity_lots: room.value,
    former_use: former.value || null,
    anyway,
    container_kind: container.value && kind.value !== props.box.kind ? kind.value : null,
    version: props.box.version,
  })
</script>

<template>
  <ActForm :title="`Put ${box.name} right`" submit="Save" :ready="name.trim() !== ''" :words :call>
    <TextField v-model="name" label="name" />
    <template v-if="container">
      <ChoiceField v-model="kind" label="kind" :options="choices" />
      <NumberField v-model="room" label="room for packets" name="room" whole :min="1" />
      <TextField v-model="former" label="held before" name="former use" />
    </template>
  </ActForm>
</template>
