<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { computed, ref, watch } from 'vue'
import ActForm from '../../parts/ActForm.vue'
import { many } from '../../parts/words'
import { useWriting } from '../../parts/writing'
import { lastYear, takeOver } from './acts'

/** Last year's list, with what became of it: taken over as proposed, or as one likes. */
const found = useQuery({ queryKey: ['last-year'], queryFn: lastYear })
const { productUnit, productShown, productTyped, written } = useWriting()
const round = (x: number) => Math.round(100 * x) / 100
const taken = ref<Record<number, boolean>>({})
const wanted = ref<Record<number, number | null>>({})
watch(
  () => found.data.value,
  (year) => {
    for (const f of year?.foods ?? []) {
      taken.value[f.target_id] ??= true
      wanted.value[f.target_id] ??= round(productShown(f.proposed, f.unit))
    }
  },
  { immediate: true },
)
const foods = computed(() => found.data.value?.foods ?? [])
const chosen = computed(() => foods.value.filter((f) => taken.value[f.target_id]))
const words = () => `Took ${many(chosen.value.length, 'food')} over from ${found.data.value?.year}`
const call = () =>
  takeOver(
    chosen.value.map((f) => ({
      target_id: f.target_id,
      per_week: productTyped(wanted.value[f.target_id] ?? 0, f.unit),
    })),
  )
</script>

<template>
  <ActForm
    :title="`From ${found.data.value?.year ?? 'last year'}`"
    :submit="`Take ${many(chosen.length, 'food')} over`"
    :ready="chosen.length > 0"
    :width="640"
    :words
    :call
  >
    <RoomState :query="found" />
    <p v-if="found.data.value && !foods.length" class="soft">All of it is on this year’s list.</p>
    <div v-for="f in foods" :key="f.target_id" class="food">
      <ACheckbox v-model:checked="taken[f.target_id]">
        <strong>{{ f.name }}</strong>
        <div class="small soft">
          {{ written(round(productShown(f.per_week, f.unit))) }} a week for {{ f.weeks }} weeks; {{ f.says }}
        </div>
      </ACheckbox>
      <Num
        v-model="wanted[f.target_id]!"
        :min="0"
        :step="0.1"
        :unit="`${productUnit(f.unit)} a week`"
        :aria-label="`${f.name} a week`"
      />
    </div>
  </ActForm>
</template>

<style scoped>
.food {
  display: grid;
  grid-template-columns: 1fr 200px;
  gap: 10px;
  align-items: center;
  padding: 6px 0;
  border-top: 1px solid var(--hair-soft);
}
@media (max-width: 480px) {
  .food {
    grid-template-columns: 1fr;
  }
}
</style>
