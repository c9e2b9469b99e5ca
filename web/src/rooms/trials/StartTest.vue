<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { computed, ref, toRef } from 'vue'
import { api, take } from '../../api/client'
import ActForm from '../../parts/ActForm.vue'
import { useWriting } from '../../parts/writing'
import { MEDIA, pastTest, startTest, toldTest } from './acts'

/** A test is begun; or one that is over, or that somebody wrote down once, is told. */
const props = defineProps<{
  lotId: number
  name: string
  /** What follows each count of the test that is asked for. */
  then?: string[]
}>()
const { numberOf } = useWriting()
const typed = ref<number | null>(null)
const mediumSaid = ref('')
const spotSaid = ref<number | null>(null)
const setup = useQuery({
  queryKey: ['setup', toRef(props, 'lotId'), typed, spotSaid],
  queryFn: () =>
    take(
      api.GET('/api/tests/setup/{lot_id}', {
        params: {
          path: { lot_id: props.lotId },
          query: { n: typed.value || undefined, temperature_c: spotSaid.value ?? undefined },
        },
      }),
    ),
})
// as the kind wants it until somebody says otherwise
const medium = computed({
  get: () => mediumSaid.value || setup.data.value?.medium || 'paper',
  set: (v) => (mediumSaid.value = v),
})
const spot = computed({
  get: () => spotSaid.value ?? setup.data.value?.temperature_c ?? null,
  set: (v) => (spotSaid.value = v),
})
const coldSaid = ref<number | null>(null)
const cold = computed({
  get: () => coldSaid.value ?? setup.data.value?.cold_days ?? 0,
  set: (v) => (coldSaid.value = v),
})
const touched = ref(false)
const n = computed({
  // nothing until it is known: a number typed meanwhile must not be taken for the one that stood there
  get: () => (touched.value ? typed.value : (setup.data.value?.seeds ?? null)),
  set: (v) => {
    touched.value = true
    typed.value = v
  },
})
const STATES = [
  { value: 'now', label: 'start one' },
  { value: 'over', label: 'it is over' },
  { value: 'told', label: 'written down before' },
]
const state = ref<'now' | 'over' | 'told'>('now')
const on = ref('')
const up = ref<number | null>(null)
const told = ref('')
const seeds = computed(() => n.value ?? 0)
const share = computed(() => (numberOf(told.value) ?? NaN) / 100)
const ready = computed(() =>
  state.value === 'told'
    ? share.value >= 0 && share.value <= 1
    : seeds.value >= 1 &&
      (state.value === 'now' || (up.value !== null && up.value >= 0 && up.value <= seeds.value)),
)
const words = () =>
  ({
    now: `Started a test of ${props.name} with ${seeds.value} seeds`,
    over: `${props.name}: ${up.value} of ${seeds.value} came up`,
    told: `${props.name}: ${told.value} was written down`,
  })[state.value]
function call() {
  const about = { lot_id: props.lotId, on: on.value }
  if (state.value === 'told') return toldTest({ ...about, germination: share.value })
  const how = { ...about, n: seeds.value, medium: medium.value, temperature_c: spot.value ?? 20 }
  return state.value === 'now'
    ? startTest({ ...how, cold_days: cold.value ?? 0 })
    : pastTest({ ...how, up: up.value ?? 0, took_seeds: true })
}
</script>

<template>
  <ActForm :title="`Test ${name}`" :submit="state === 'now' ? 'Sown: start' : 'Keep it'" :ready :words :call>
    <ASegmented v-model:value="state" :options="STATES" />
    <div v-if="state === 'told'" class="row">
      <TextField v-model="told" label="germination" name="told" unit="%" decimal placeholder="80" />
      <DayField v-model="on" label="when, if it says" placeholder="not known" />
      <p class="small soft">
        Of how many seeds nobody wrote: it counts as a small test. Without its day it counts half.
      </p>
    </div>
    <div v-else class="row">
      <NumberField v-if="state === 'over'" v-model="up" label="came up" name="up" whole :min="0" />
      <NumberField
        v-model="n"
        :label="state === 'over' ? 'of' : 'seeds'"
        name="seeds"
        whole
        :min="0"
        :max="400"
      />
      <ChoiceField v-model="medium" label="on" :options="MEDIA" />
      <SpotField v-model="spot" />
      <NumberField
        v-if="state === 'now' && (cold || coldSaid !== null)"
        v-model="cold"
        label="cold first"
        name="cold days"
        unit="days"
        :min="0"
        :max="120"
      />
      <DayField v-model="on" :label="state === 'over' ? 'counted last' : 'sown'" />
    </div>
    <template v-if="state === 'now'">
      <RoomState v-slot="{ data }" :query="setup" :rows="3">
        <p v-if="then?.length && !touched"><strong>Then:</strong> {{ then.join('; ') }}</p>
        <p><strong>What it can tell:</strong> {{ data.can_tell }}</p>
        <p>Likes {{ data.temperature }}, {{ data.light }}; {{ data.days }}.</p>
        <p v-for="(x, i) in data.first" :key="x"><strong v-if="!i">First:</strong> {{ x }}</p>
        <p>{{ data.lay }}</p>
        <p v-if="data.reads_low" class="small">{{ data.reads_low }}</p>
        <p class="small soft">
          Paper is quick and clean to count; compost and sand are closer to the bed and count a little less.
        </p>
        <ul>
          <li v-for="c in data.cautions" :key="c" class="caution small">{{ c }}</li>
        </ul>
      </RoomState>
    </template>
  </ActForm>
</template>

<style scoped>
.caution {
  color: var(--warm);
}
ul {
  margin: 0;
  padding-left: 18px;
}
</style>
