<script setup lang="ts">
import { computed, ref } from 'vue'
import ActForm from '../../parts/ActForm.vue'
import { together } from '../stock/acts'

/** Packets are chosen and sown at once, so many seeds of each. */
const emit = defineEmits<{ close: [] }>()
const ids = ref<number[]>([])
const n = ref<number | null>(20)
const setting = ref<string>('outdoors')
const on = ref('')
const ready = computed(() => ids.value.length > 0 && (n.value ?? 0) >= 1)
const words = () => `Sowed ${n.value} each of ${ids.value.length} packets`
const call = (anyway: boolean) =>
  together({
    what: 'sow', lot_ids: ids.value, n: n.value ?? 0, setting: setting.value, on: on.value, anyway,
  }) // prettier-ignore
</script>

<template>
  <ActForm title="Sow" submit="Sown" :ready="ready" :words="words" :call="call" @close="emit('close')">
    <PacketPicker v-model="ids" label="packets" />
    <NumberField v-model="n" label="seeds of each" name="seeds" whole :min="1" :max="100000" />
    <ChoiceField v-model="setting" label="where" :options="['outdoors', 'indoors']" />
    <DayField v-model="on" label="sown on" />
  </ActForm>
</template>
