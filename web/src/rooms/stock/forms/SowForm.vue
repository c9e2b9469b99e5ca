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
/** Tubers, sets and plants are set. */
const put = computed(() => props.lots.length > 0 && props.lots.every((l) => (l.unit ?? 'seed') !== 'seed'))
const unit = computed(() =>
  put.value && props.lots.length === 1 ? `${props.lots[0]!.unit}s` : put.value ? 'pieces' : 'seeds',
)
const ready = computed(() => all.value.length > 0 && (n.value ?? 0) >= 1)
const name = computed(() => (props.lots.length ? called(props.lots) : `${all.value.length} packets`))
const words = () => `${put.value ? 'Set' : 'Sowed'} ${n.value} of ${name.value}`
const call = (anyway: boolean) =>
  together({
    what: 'sow', lot_ids: all.value, n: n.value ?? 0, setting: setting.value, on: on.value, anyway,
  }) // prettier-ignore
</script>

<template>
  <ActForm
    :title="lots.length ? `${put ? 'Set' : 'Sow'} ${name}` : 'Sow'"
    :submit="put ? 'Set' : 'Sown'"
    :ready
    :words
    :call
    @done="emit('done')"
  >
    <PacketPicker v-if="!lots.length" v-model="chosen" label="packets" />
    <NumberField v-model="n" :label="lots.length === 1 ? unit : `${unit} of each`" name="seeds" count />
    <ChoiceField v-model="setting" label="where" :options="['outdoors', 'indoors']" />
    <DayField v-model="on" :label="put ? 'set on' : 'sown on'" />
  </ActForm>
</template>
