<script setup lang="ts">
import { ref } from 'vue'
import { together } from '../acts'
import { called, EVENTS, ids, type Named } from './lots'
const props = defineProps<{ lots: Named[] }>()
const emit = defineEmits<{ done: [] }>()

const kind = ref<string>('mould')
const note = ref('')
const on = ref('')
const words = () => `${called(props.lots)}: ${kind.value}`
const call = (anyway: boolean) =>
  together({
    what: 'event', lot_ids: ids(props.lots), kind: kind.value, note: note.value, on: on.value, anyway,
  }) // prettier-ignore
</script>

<template>
  <ActForm :title="`What happened to ${called(lots)}?`" submit="Note it" :words :call @done="emit('done')">
    <ChoiceField v-model="kind" label="what" name="event" :options="EVENTS" />
    <TextField v-model="note" label="in your words" name="note" />
    <p class="small soft">
      Mouldy seed: no sniffing, discard outdoors. Mouse droppings: wet-clean, no sweeping.
    </p>
    <DayField v-model="on" />
  </ActForm>
</template>
