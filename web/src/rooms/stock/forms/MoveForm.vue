<script setup lang="ts">
import { ref } from 'vue'
import SinceField from '../../../parts/fields/SinceField.vue'
import { usePlaces } from '../../../parts/fields/places'
import { together } from '../acts'
import { called, ids, type Named } from './lots'
const props = defineProps<{ lots: Named[] }>()
const emit = defineEmits<{ done: [] }>()

const { path } = usePlaces()
const node = ref<number | null>(props.lots.length === 1 ? (props.lots[0]?.node_id ?? null) : null)
const section = ref('')
const slot = ref('')
const on = ref('')
const words = () => `Moved ${called(props.lots)} to ${path(node.value)}`
const call = (anyway: boolean) =>
  together({
    what: 'move', lot_ids: ids(props.lots), node_id: node.value ?? 0, section: section.value, slot: slot.value,
    on: on.value, anyway,
  }) // prettier-ignore
</script>

<template>
  <ActForm
    :title="`Move ${called(lots)}`"
    submit="Move it"
    :ready="node !== null"
    :words
    :call
    @done="emit('done')"
  >
    <PlaceField v-model="node" label="to" says />
    <TextField v-model="section" label="section, if it has one" />
    <TextField v-if="lots.length === 1" v-model="slot" label="slot" />
    <SinceField v-if="lots.every((l) => l.node_id === null)" v-model="on" placeholder="only from now" />
    <DayField v-else v-model="on" label="since when" />
  </ActForm>
</template>
