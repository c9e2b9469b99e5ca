<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { computed, ref, watch } from 'vue'
import { api, take } from '../../api/client'
import { useAct } from '../../api/queries'
import { Segmented } from 'ant-design-vue'
import DayField from '../../parts/DayField.vue'
import Modal from '../../parts/Modal.vue'

const props = defineProps<{ open: boolean; lotId: number; name: string }>()
const emit = defineEmits<{ close: [] }>()
const act = useAct()
const seeds = ref<number | null>(null)
const medium = ref('paper')
const spot = ref(20)
const setup = useQuery({
  queryKey: ['setup', computed(() => props.lotId), seeds],
  enabled: computed(() => props.open),
  queryFn: () =>
    take(
      api.GET('/api/tests/setup/{lot_id}', {
        params: { path: { lot_id: props.lotId }, query: { n: seeds.value || undefined } },
      }),
    ),
})
const n = computed(() => seeds.value ?? setup.data.value?.seeds ?? 10)
const STATES = [
  { value: 'now', label: 'start one' },
  { value: 'over', label: 'it is over' },
  { value: 'told', label: 'written down before' },
]
const state = ref('now')
const on = ref('')
const up = ref<number | null>(null)
const told = ref('')
watch(
  () => props.open,
  (open) => {
    if (!open) return
    seeds.value = up.value = null
    on.value = told.value = ''
    state.value = 'now'
  },
)
const share = computed(() => Number(told.value.replace('%', '').replace(',', '.')) / 100)
const ready = computed(() =>
  state.value === 'told'
    ? told.value.trim() !== '' && share.value >= 0 && share.value <= 1
    : n.value >= 1 && (state.value === 'now' || (up.value !== null && up.value >= 0 && up.value <= n.value)),
)

const start = () =>
  act.run(
    `Started a test of ${props.name} with ${n.value} seeds`,
    () =>
    take(
      api.POST('/api/tests', {
        body: {
          lot_id: props.lotId, n: n.value, medium: medium.value, temperature_c: spot.value, on: on.value,
        },
      }),
    ), // prettier-ignore
  )
const over = () =>
  act.run(
    `${props.name}: ${up.value} of ${n.value} came up`,
    () =>
    take(
      api.POST('/api/tests/past', {
        body: {
          lot_id: props.lotId, up: up.value ?? 0, n: n.value, medium: medium.value,
          temperature_c: spot.value, took_seeds: true, on: on.value,
        },
      }),
    ), // prettier-ignore
  )
const written = () =>
  act.run(`${props.name}: ${told.value} was written down`, () =>
    take(
      api.POST('/api/tests/told', { body: { lot_id: props.lotId, germination: share.value, on: on.value } }),
    ),
  )
async function save() {
  const how = { now: start, over, told: written }[state.value]
  if (ready.value && how && (await how())) emit('close')
}
</script>

<template>
  <Modal :open="open" :title="`Test ${name}`" @close="emit('close')">
    <form class="form" @submit.prevent="save">
      <Segmented v-model:value="state" :options="STATES" />
      <div v-if="state === 'told'" class="row">
        <label class="field"
          >germination, %<input v-model="told" name="told" inputmode="decimal" placeholder="80"
        /></label>
        <DayField v-model="on" label="when, if it says" />
        <p class="small soft">
          Of how many seeds nobody wrote: it counts as a small test. Without its day it counts half.
        </p>
      </div>
      <div v-else class="row">
        <label v-if="state === 'over'" class="field"
          >came up<input v-model.number="up" name="up" type="number" min="0" :max="n"
        /></label>
        <label class="field"
          >{{ state === 'over' ? 'of' : 'seeds'
          }}<input
            type="number"
            min="1"
            max="400"
            :value="n"
            @input="seeds = Math.round(Number(($event.target as HTMLInputElement).value)) || 0"
        /></label>
        <label class="field"
          >on
          <select v-model="medium">
            <option value="paper">damp paper</option>
            <option value="sand">sand</option>
            <option value="compost">compost</option>
          </select>
        </label>
        <label class="field">spot, °C<input v-model.number="spot" type="number" min="0" max="45" /></label>
        <DayField v-model="on" :label="state === 'over' ? 'counted last' : 'sown'" />
      </div>
      <template v-if="state !== 'now'" />
      <template v-else-if="setup.data.value">
        <p><strong>What it can tell:</strong> {{ setup.data.value.can_tell }}</p>
        <p>
          Likes {{ setup.data.value.temperature }}, {{ setup.data.value.light }}; {{ setup.data.value.days }}.
          <span v-if="!setup.data.value.pretreatment.startsWith('none')"
            >Before: {{ setup.data.value.pretreatment }}.</span
          >
        </p>
        <p class="small soft">
          Paper: quick and clean to count; some peppers, tomatoes and flowers read low on it. Compost and sand
          are closer to the bed and count a little less. Damp, not soggy.
        </p>
        <ul>
          <li v-for="c in setup.data.value.cautions" :key="c" class="caution small">{{ c }}</li>
        </ul>
      </template>
      <p v-else-if="setup.isError.value" class="caution">{{ setup.error.value?.message }}</p>
      <div v-else class="skeleton" />
      <button class="btn" type="submit" :disabled="!ready || act.busy.value">
        {{ state === 'now' ? 'Sown: start' : 'Keep it' }}
      </button>
    </form>
  </Modal>
</template>

<style scoped>
.form {
  display: flex;
  flex-direction: column;
  gap: 8px;
}
.form > .btn {
  align-self: flex-end;
}
.caution {
  color: var(--warm);
}
ul {
  margin: 0;
  padding-left: 18px;
}
input[type='number'] {
  width: 90px;
}
</style>
