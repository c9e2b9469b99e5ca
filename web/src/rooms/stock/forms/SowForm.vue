<script setup lang="ts">
import { computed, ref } from 'vue'
import ActForm from '../../../parts/ActForm.vue'
import { together } from '../acts'
import { called, ids, type Named } from './lots'

/** Packets are sown, so many seeds of each; without any given, they are chosen here. */
const props = withDefaults(defineProps<{ lots?: Named[] }>(), { lots: () => [] })
const emit = defineEmits<{ done: [] }>()
const chosen = ref<number[]>([])
const all = computed(() => (props.lots.length ? ids(props.lots) : chosen.value))
const n = ref<number | null>(20)
const setting = ref<string>('outdoors')
const on = ref('')
const ready = computed(() => all.value.length > 0 && (n.value ?? 0) >= 1)
const name = computed(() => (props.lots.length ? called(props.lots) : `${all.value.length} packets`))
const words = () => `Sowed ${n.value} of ${name.value}`
const call = (anyway: boolean) =>
  together({
    what: 'sow', lot_ids: all.value, n: n.value ?? 0, setting: setting.value, on: on.value, anyway,
  }) // prettier-ignore
</script>

<template>
  <ActForm
    :title="lots.length ? `Sow ${name}` : 'Sow'"
    submit="Sown"
    :ready
    :words
    :call
    @done="emit('done')"
  >
    <PacketPicker v-if="!lots.length" v-model="chosen" label="packets" />
    <NumberField v-model="n" :label="lots.length === 1 ? 'seeds' : 'seeds of each'" name="seeds" count />
    <ChoiceField v-model="setting" label="where" :options="['outdoors', 'indoors']" />
    <DayField v-model="on" label="sown on" />
  </ActForm>
</template>
