<script setup lang="ts">
import { computed, ref, watch } from 'vue'
import { api, take, type Schemas, type StockRow } from '../../../api/client'
import ActForm from '../../../parts/ActForm.vue'
import { pourInto } from '../acts'
import { called, type Named } from './lots'

/** Others are poured into one packet; what that mixes is said first. */
const props = defineProps<{ lot: Named & { kind_name: string } }>()
const others = ref<number[]>([])
const mixing = ref<Schemas['Mixing'] | null>(null)
const alike = (r: StockRow) => r.variety === props.lot.variety && r.kind_name === props.lot.kind_name
watch(others, async (ids) => {
  const params = { path: { lot_id: props.lot.lot_id }, query: { other_ids: ids } }
  mixing.value = ids.length
    ? await take(api.GET('/api/stock/lots/{lot_id}/mixing', { params })).catch(() => null)
    : null
})
const shares = computed(() =>
  Object.entries(mixing.value?.shares ?? {})
    .map(([code, share]) => `${Math.round(100 * share)} % ${code}`)
    .join(', '),
)
const words = () => `Poured ${others.value.length} into ${called([props.lot])}`
const call = () => pourInto(props.lot.lot_id, others.value, true)
</script>

<template>
  <ActForm
    :title="`Pour others into ${called([lot])}`"
    :submit="mixing?.warnings.length ? 'Pour together all the same' : 'Pour together'"
    :ready="others.length > 0"
    :words
    :call
  >
    <PacketPicker v-model="others" label="packets to pour in" :but="[lot.lot_id]" :first="alike" />
    <div v-if="mixing" role="status">
      <p v-for="w in mixing.warnings" :key="w" class="warm">{{ w }}</p>
      <p class="small soft">The bag would be {{ shares }}.</p>
    </div>
  </ActForm>
</template>
