<script setup lang="ts">
import { computed, ref } from 'vue'
import { api, Problem, take, type Schemas } from '../../api/client'
import { lastProblem, useShelves } from '../../api/queries'
import Modal from '../../parts/Modal.vue'

/** How the packets of some containers would divide among them, in the order of the list. */
const props = defineProps<{ open: boolean; group: string }>()
defineEmits<{ close: [] }>()
const shelves = useShelves()
const boxes = computed(() => (shelves.data.value ?? []).flatMap((s) => s.boxes))
const chosen = ref<number[]>([])
const plan = ref<Schemas['Division'] | null>(null)
async function propose() {
  try {
    plan.value = await take(
      api.GET('/api/stock/division', { params: { query: { node_ids: chosen.value, group: props.group } } }),
    )
  } catch (error) {
    lastProblem.value =
      error instanceof Problem ? error : new Problem(0, 'Something went wrong', String(error))
  }
}
</script>

<template>
  <Modal :open="open" title="Divide packets among cases and tins" :width="760" @close="$emit('close')">
    <p class="soft small">
      What stands in the chosen ones is laid out anew in the order of the list, as many as each holds; a
      heading is torn apart only where it must be.
    </p>
    <div class="boxes small">
      <label v-for="b in boxes" :key="b.node_id"
        ><input v-model="chosen" type="checkbox" :value="b.node_id" @change="plan = null" /> {{ b.name }} ({{
          b.lots
        }})</label
      >
    </div>
    <button class="btn" type="button" :disabled="!chosen.length" @click="propose">Propose</button>
    <div v-if="plan" role="status">
      <p>
        <strong>{{ plan.says }}</strong>
      </p>
      <table class="plain stack">
        <tbody>
          <tr v-for="b in plan.boxes" :key="b.node_id">
            <td class="name">{{ b.name }}</td>
            <td>{{ b.lots.length }} packets, {{ Math.round(100 * b.fill) }} % full</td>
            <td>
              {{ b.first }} to {{ b.last }}<span class="soft small"> · {{ b.headings.join(', ') }}</span>
            </td>
            <td class="soft small">{{ b.moves ? `${b.moves} move in` : 'all there already' }}</td>
          </tr>
        </tbody>
      </table>
      <p v-if="plan.left_over.length" class="act">Left over: {{ plan.left_over.join(', ') }}</p>
    </div>
  </Modal>
</template>

<style scoped>
.boxes {
  display: flex;
  flex-wrap: wrap;
  gap: 6px 16px;
  margin-bottom: 10px;
}
</style>
