<script setup lang="ts">
import { ref } from 'vue'
import { chosen } from '../../../api/client'
import ActForm from '../../../parts/ActForm.vue'
import { bookQuantity } from '../acts'
import { called, SURE, type Named } from './lots'

/** What was counted, given, eaten, lost, thrown out or found of one packet. */
const props = defineProps<{ lot: Named }>()
const BOOKINGS = {
  counted: 'counted or weighed',
  given: 'given away',
  eaten: 'eaten',
  lost: 'lost',
  thrown: 'thrown out',
  found: 'found more',
}
const kind = ref<string>('counted')
const amount = ref('')
const sure = ref<string>('')
const on = ref('')
const words = () => `${called([props.lot])}: ${amount.value} ${kind.value}`
const call = () =>
  bookQuantity(props.lot.lot_id, {
    kind: chosen(kind.value), amount: amount.value, sure: sure.value, on: on.value,
  }) // prettier-ignore
</script>

<template>
  <ActForm :title="`How much of ${called([lot])}?`" submit="Save" :ready="amount.trim() !== ''" :words :call>
    <ChoiceField v-model="kind" label="what" name="booking" :options="BOOKINGS" />
    <AmountField v-model="amount" name="quantity" />
    <ChoiceField v-model="sure" label="how sure" :options="SURE" />
    <DayField v-model="on" />
  </ActForm>
</template>
