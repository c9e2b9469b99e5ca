<script setup lang="ts">
import { computed, ref } from 'vue'
import { api, asProblem, take, type Schemas } from '../../api/client'
import { lastProblem, useAct } from '../../api/queries'
import { usePlaces } from '../../parts/fields/places'
import { together } from './acts'

/** How the packets of some containers would divide among them, in the order of the list; then they do. */
const props = defineProps<{ group: string }>()
const emit = defineEmits<{ close: [] }>()
const act = useAct()
const { containers } = usePlaces()
const choices = computed(() =>
  containers.value.map((b) => ({ value: b.node_id, label: `${b.name} (${b.lots})` })),
)
const chosen = ref<number[]>([])
const loose = ref(true)
const plan = ref<Schemas['Division'] | null>(null)
const moving = computed(() => Object.keys(plan.value?.into ?? {}).map(Number))
async function propose() {
  try {
    plan.value = await take(
      api.GET('/api/stock/division', {
        params: { query: { node_ids: chosen.value, group: props.group, loose: loose.value } },
      }),
    )
  } catch (error) {
    lastProblem.value = asProblem(error)
  }
}
async function accept() {
  const into = plan.value?.into ?? {}
  const done = await act.runAsking(`Divided ${moving.value.length} packets among tins`, (anyway) =>
    together({ what: 'house', lot_ids: moving.value, into, anyway }),
  )
  if (done) emit('close')
}
const COLUMNS = [
  { key: 'name', title: 'container' },
  { key: 'fill', title: 'holds then' },
  { key: 'span', title: 'from, to' },
  { key: 'moves', title: 'moves' },
]
</script>

<template>
  <Sheet open title="Divide packets among cases and tins" :width="760" @close="emit('close')">
    <p class="soft small">
      What stands in the chosen ones is laid out anew in the order of the list, each as full as the others; a
      heading is torn apart only where it must be.
    </p>
    <ACheckboxGroup v-model:value="chosen" class="boxes" :options="choices" @change="plan = null" />
    <p>
      <ACheckbox v-model:checked="loose" @change="plan = null">and what stands nowhere yet</ACheckbox>
    </p>
    <AButton type="primary" :ghost="plan !== null" :disabled="!chosen.length" @click="propose">
      Propose
    </AButton>
    <div v-if="plan" role="status">
      <p>
        <strong>{{ plan.says }}</strong>
      </p>
      <DataTable :rows="plan.boxes" :columns="COLUMNS" by="node_id">
        <template #name="{ row }"
          ><span class="name">{{ row.name }}</span></template
        >
        <template #fill="{ row }"
          >{{ row.lots.length }} packets, {{ Math.round(100 * row.fill) }} % full</template
        >
        <template #span="{ row }"
          >{{ row.first }} to {{ row.last
          }}<span class="soft small"> · {{ row.headings.join(', ') }}</span></template
        >
        <template #moves="{ row }">{{ row.moves ? `${row.moves} move in` : 'all there already' }}</template>
      </DataTable>
      <p v-if="plan.left_over.length" class="act">Left over: {{ plan.left_over.join(', ') }}</p>
      <div class="end">
        <AButton type="primary" :disabled="!moving.length || act.busy.value" @click="accept">
          They are divided so: move {{ moving.length }}
        </AButton>
      </div>
    </div>
  </Sheet>
</template>

<style scoped>
.boxes {
  display: flex;
  flex-wrap: wrap;
  gap: 4px 8px;
  margin-bottom: 10px;
}
</style>
