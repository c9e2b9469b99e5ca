<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { computed, ref, watch } from 'vue'
import { api, take } from '../../api/client'
import { useAct } from '../../api/queries'
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
watch(
  () => props.open,
  (open) => {
    if (open) seeds.value = null
  },
)
const n = computed(() => seeds.value || setup.data.value?.seeds || 10)

async function start() {
  const done = await act.run(`Started a test of ${props.name} with ${n.value} seeds`, () =>
    take(
      api.POST('/api/tests', {
        body: { lot_id: props.lotId, n: n.value, medium: medium.value, temperature_c: spot.value },
      }),
    ),
  )
  if (done) emit('close')
}
</script>

<template>
  <Modal :open="open" :title="`Test ${name}`" @close="emit('close')">
    <form class="form" @submit.prevent="start">
      <div class="row">
        <label class="field"
          >seeds<input
            type="number"
            min="1"
            max="400"
            :value="n"
            @input="seeds = Number(($event.target as HTMLInputElement).value)"
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
      </div>
      <template v-if="setup.data.value">
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
      <button class="btn" type="submit" :disabled="act.busy.value">Sown today: start</button>
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
