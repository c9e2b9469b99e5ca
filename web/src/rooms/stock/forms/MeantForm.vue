<script setup lang="ts">
import { ref } from 'vue'
import { together } from '../acts'
import { called, ids, USES, type Named } from './lots'
const props = defineProps<{ lots: Named[] }>()
const emit = defineEmits<{ done: [] }>()

const use = ref<string>('seed')
const words = () => `${called(props.lots)}: meant for ${use.value}`
const call = (anyway: boolean) =>
  together({ what: 'meant', lot_ids: ids(props.lots), intended_use: use.value, anyway })
</script>

<template>
  <ActForm :title="`${called(lots)}: meant for`" submit="So it is meant" :words :call @done="emit('done')">
    <ChoiceField v-model="use" label="meant for" :options="USES" />
  </ActForm>
</template>
