<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { computed, ref, watch } from 'vue'
import { api, take } from '../../api/client'
import { useAct } from '../../api/queries'
import Modal from '../../parts/Modal.vue'

/** Who should lie in the few good places; one touch puts the moves on today's list. */
const props = defineProps<{ open: boolean }>()
const emit = defineEmits<{ close: [] }>()
const act = useAct()
const asked = computed(() => props.open)
const best = useQuery({
  queryKey: ['best-use'],
  enabled: asked,
  queryFn: () => take(api.GET('/api/storage/best-use')),
})
const left = ref<Set<number>>(new Set())
watch(asked, () => (left.value = new Set()))
const chosen = computed(() => (best.data.value?.moves ?? []).filter((m) => !left.value.has(m.lot_id)))
function toggle(id: number) {
  const next = new Set(left.value)
  if (!next.delete(id)) next.add(id)
  left.value = next
}
async function plan() {
  const moves = chosen.value.map((m) => ({ lot_id: m.lot_id, node_id: m.to_node_id }))
  const done = await act.run(`Planned ${moves.length} moves for today`, () =>
    take(api.POST('/api/storage/best-use/jobs', { body: { moves } })),
  )
  if (done) emit('close')
}
</script>

<template>
  <Modal :open="open" title="Best use of the good places" :width="860" @close="emit('close')">
    <p v-if="best.isPending.value" class="soft">Weighing every lot against every place…</p>
    <p v-else-if="best.isError.value" role="alert">{{ best.error.value?.message }}</p>
    <template v-else-if="best.data.value">
      <p v-if="best.data.value.places.length">
        <span v-for="p in best.data.value.places" :key="p.node_id" class="place"
          ><strong>{{ p.path }}</strong> {{ p.lots }} of {{ p.capacity_lots }}, ageing speed
          {{ p.speed.toFixed(2) }}</span
        >
      </p>
      <p v-if="!best.data.value.moves.length"><strong>Nothing to move.</strong> {{ best.data.value.note }}</p>
      <template v-else>
        <p>
          These {{ best.data.value.moves.length }} moves would keep about
          <strong>{{ Math.round(best.data.value.saved_seeds) }} more seeds alive</strong> in
          {{ best.data.value.horizon_years }} years.
        </p>
        <div class="scroll">
          <table class="plain small stack">
            <thead>
              <tr>
                <th></th>
                <th>lot</th>
                <th>from</th>
                <th>to</th>
                <th>why</th>
              </tr>
            </thead>
            <tbody>
              <tr v-for="m in best.data.value.moves" :key="m.lot_id">
                <td>
                  <input
                    type="checkbox"
                    :checked="!left.has(m.lot_id)"
                    :aria-label="`move ${m.code}`"
                    @change="toggle(m.lot_id)"
                  />
                </td>
                <td>
                  <span class="code">{{ m.code }}</span> {{ m.name }}
                  <span class="soft">{{ m.kind_name }}</span>
                </td>
                <td data-label="from">{{ m.from_path }}</td>
                <td data-label="to">{{ m.to_path }}</td>
                <td>{{ m.why }}</td>
              </tr>
            </tbody>
          </table>
        </div>
        <p class="small soft">{{ best.data.value.note }}</p>
        <div class="row end">
          <button class="btn" type="button" :disabled="!chosen.length || act.busy.value" @click="plan">
            Put {{ chosen.length }} moves on today’s list
          </button>
        </div>
      </template>
    </template>
  </Modal>
</template>

<style scoped>
.place {
  display: inline-block;
  margin-right: 18px;
}
.scroll {
  max-height: 46vh;
  overflow: auto;
}
.end {
  justify-content: flex-end;
}
</style>
