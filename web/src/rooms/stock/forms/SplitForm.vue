<script setup lang="ts">
import { ref } from 'vue'
import ActForm from '../../../parts/ActForm.vue'
import { splitLot } from '../acts'
import { called, type Named } from './lots'

const props = defineProps<{ lot: Named }>()
const amount = ref('')
const node = ref<number | null>(null)
const words = () => `Split ${amount.value} off ${called([props.lot])}`
const call = () => splitLot(props.lot.lot_id, { amount: amount.value, node_id: node.value, code: '' })
</script>

<template>
  <ActForm :title="`Split ${called([lot])}`" submit="Split it" :ready="amount.trim() !== ''" :words :call>
    <p class="soft small">The new packet gets its own code; both keep the past and the tests they share.</p>
    <AmountField v-model="amount" label="how much goes into it" name="quantity" />
    <PlaceField v-model="node" label="it stands in" none="the same place" />
  </ActForm>
</template>
