<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { computed, ref } from 'vue'
import { api, take } from '../../api/client'
import { useAct } from '../../api/queries'

/** Beans or grain sealed against weevils: which cans fill to the brim, and the day they are shut. */
const props = defineProps<{ nodeId: number; name: string }>()
const act = useAct()
const open = ref(false)
const kilos = ref('')
const weekly = ref('')
const days = ref(60)
const number = (text: string) => Number(text.replace(',', '.'))
const asked = computed(() => open.value && number(kilos.value) > 0)
const plan = useQuery({
  queryKey: ['cans', kilos, weekly],
  enabled: asked,
  retry: false,
  queryFn: () =>
    take(
      api.GET('/api/storage/cans', {
        params: { query: { amount_kg: number(kilos.value), kg_a_week: number(weekly.value) || undefined } },
      }),
    ),
})
async function seal() {
  const done = await act.runAsking(`${props.name}: sealed with ${kilos.value} kg`, (anyway) =>
    take(
      api.POST('/api/storage/nodes/{node_id}/events', {
        params: { path: { node_id: props.nodeId } },
        body: {
          kind: 'sealed',
          note: `${kilos.value} kg to the brim`,
          on: '',
          anyway,
          figures: { food_kg: number(kilos.value), shut_days: days.value },
        },
      }),
    ),
  )
  if (done) open.value = false
}
</script>

<template>
  <button v-if="!open" class="btn link small" type="button" @click="open = true">
    seal beans or grain in it
  </button>
  <form v-else class="small" @submit.prevent="seal">
    <div class="row">
      <label class="field">kilos<input v-model="kilos" inputmode="decimal" /></label>
      <label class="field">eaten a week, kg<input v-model="weekly" inputmode="decimal" /></label>
      <label class="field"
        >shut for, days<input v-model.number="days" type="number" min="30" max="400"
      /></label>
      <button class="btn quiet" type="submit" :disabled="!(number(kilos) > 0) || act.busy.value">
        Sealed today
      </button>
    </div>
    <p v-if="plan.data.value" role="status">{{ plan.data.value.says }}</p>
    <p v-else-if="plan.isError.value" role="alert">{{ plan.error.value?.message }}</p>
    <p class="soft">
      Dry, sorted, in a clean food-grade can with little air; never one that held fuel or poison. Opened
      early, the days begin anew.
    </p>
  </form>
</template>

<style scoped>
.row {
  align-items: flex-end;
}
input {
  width: 92px;
}
</style>
