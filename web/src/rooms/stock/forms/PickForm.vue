<script setup lang="ts">
import { ref } from 'vue'
import { together } from '../acts'
import { called, ids, PURPOSES, type Named } from './lots'
const props = defineProps<{ lots: Named[] }>()
const emit = defineEmits<{ done: [] }>()

const plants = ref<number | null>(12)
const purpose = ref<string>('table')
const words = () => `Grow ${plants.value} of ${called(props.lots)} this year`
const call = (anyway: boolean) =>
  together({
    what: 'pick', lot_ids: ids(props.lots), plants: plants.value ?? 0, purpose: purpose.value, anyway,
  }) // prettier-ignore
</script>

<template>
  <ActForm
    :title="`Grow ${called(lots)} this year`"
    submit="Put it on the list"
    :ready="(plants ?? 0) >= 1"
    :words
    :call
    @done="emit('done')"
  >
    <NumberField
      v-model="plants"
      :label="lots.length > 1 ? 'plants of each' : 'plants'"
      name="plants"
      count
    />
    <ChoiceField v-model="purpose" label="for" :options="PURPOSES" />
  </ActForm>
</template>
