<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { computed, ref } from 'vue'
import { api, take } from '../../api/client'
import ActForm from '../../parts/ActForm.vue'
import { useWriting } from '../../parts/writing'
import { noteEvent } from './acts'

/** Beans or grain sealed against weevils: which cans fill to the brim, and the day they are shut. */
const props = defineProps<{ nodeId: number; name: string }>()
const { kiloUnit, kilos, written } = useWriting()
const open = ref(false)
const amount = ref<number | null>(null)
const weekly = ref<number | null>(null)
const days = ref<number | null>(60)
const plan = useQuery({
  queryKey: ['cans', amount, weekly],
  enabled: computed(() => open.value && (amount.value ?? 0) > 0),
  retry: false,
  queryFn: () =>
    take(
      api.GET('/api/storage/cans', {
        params: {
          query: {
            amount_kg: kilos(amount.value ?? 0),
            kg_a_week: weekly.value ? kilos(weekly.value) : undefined,
          },
        },
      }),
    ),
})
const said = () => `${written(amount.value ?? 0)} ${kiloUnit.value}`
const words = () => `${props.name}: sealed with ${said()}`
const call = (anyway: boolean) =>
  noteEvent(props.nodeId, 'sealed', {
    note: `${said()} to the brim`,
    on: '',
    anyway,
    figures: { food_kg: kilos(amount.value ?? 0), shut_days: days.value ?? 60 },
  })
</script>

<template>
  <AButton v-if="!open" type="link" size="small" @click="open = true">seal beans or grain in it</AButton>
  <ActForm
    v-else
    class="small"
    inline
    quiet
    submit="Sealed today"
    :ready="(amount ?? 0) > 0"
    :words
    :call
    @done="open = false"
  >
    <NumberField v-model="amount" label="how much" name="food_kg" :unit="kiloUnit" :min="0" />
    <NumberField v-model="weekly" label="eaten a week" name="kg_a_week" :unit="kiloUnit" :min="0" />
    <NumberField v-model="days" label="shut for" name="shut_days" unit="days" whole :min="30" :max="400" />
    <p v-if="plan.data.value" class="wide" role="status">{{ plan.data.value.says }}</p>
    <p v-else-if="plan.isError.value" class="wide" role="alert">{{ plan.error.value?.message }}</p>
    <p class="soft wide">
      Dry, sorted, in a clean food-grade can with little air; never one that held fuel or poison. Opened
      early, the days begin anew.
    </p>
  </ActForm>
</template>
