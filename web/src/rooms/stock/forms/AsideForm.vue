<script setup lang="ts">
import { ref } from 'vue'
import ActForm from '../../../parts/ActForm.vue'
import { setAside } from '../acts'
import { called, type Named } from './lots'

const props = defineProps<{ lot: Named; uses: string[] }>()
const amount = ref('')
const use = ref<string>(props.uses.includes('food') ? 'food' : (props.uses[0] ?? 'seed'))
const words = () => `${called([props.lot])}: ${amount.value || 'nothing'} set aside for ${use.value}`
const call = () => setAside(props.lot.lot_id, use.value, amount.value)
</script>

<template>
  <ActForm :title="`Set some of ${called([lot])} aside`" submit="Set it aside" :words :call>
    <ChoiceField v-model="use" label="for" name="meant for" :options="uses" />
    <AmountField v-model="amount" label="how much (empty: nothing any more)" name="quantity" />
    <p v-if="!uses.includes('food')" class="small soft">
      Not for food or shoots: this seed is not safe to eat.
    </p>
  </ActForm>
</template>
