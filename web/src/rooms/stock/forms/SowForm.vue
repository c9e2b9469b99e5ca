<script setup lang="ts">
import { ref } from 'vue'
import { together } from '../acts'
import { called, ids, type Named } from './lots'
const props = defineProps<{ lots: Named[] }>()
const emit = defineEmits<{ close: []; done: [] }>()

const n = ref<number | null>(20)
const setting = ref('outdoors')
const on = ref('')
const words = () => `Sowed ${n.value} of ${called(props.lots)}`
const call = (anyway: boolean) =>
  together({
    what: 'sow', lot_ids: ids(props.lots), n: n.value ?? 0, setting: setting.value, on: on.value, anyway,
  }) // prettier-ignore
</script>

<template>
  <ActForm
    :title="`Sow ${called(lots)}`"
    submit="Sown"
    :ready="(n ?? 0) >= 1"
    :words="words"
    :call="call"
    @close="emit('close')"
    @done="emit('done')"
  >
    <NumberField
      v-model="n"
      :label="lots.length > 1 ? 'seeds of each' : 'seeds'"
      name="seeds"
      whole
      :min="1"
      :max="100000"
    />
    <ChoiceField v-model="setting" label="where" :options="['outdoors', 'indoors']" />
    <DayField v-model="on" label="sown on" />
  </ActForm>
</template>
