<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { computed, ref, watch } from 'vue'
import { useHome } from '../../api/queries'
import ActForm from '../../parts/ActForm.vue'
import { useWriting } from '../../parts/writing'
import { crossing, nextDoor, setLimits } from './acts'

/** What a year bears: bed for growing seed, lines to tend, and what flowers beyond the hedge. */
const home = useHome()
const said = useQuery({ queryKey: ['next-door'], queryFn: nextDoor })
const groups = useQuery({ queryKey: ['kinds', 'crossing'], queryFn: crossing, staleTime: Infinity })
const { metres, unmetre, lengthUnit } = useWriting()
const tidy = (x: number) => Math.round(10 * x) / 10
const bed = ref<number | null>(null)
const lines = ref<number | null>(null)
const roots = ref<number | null>(null)
const plots = ref<{ crossing_group: string; distance_m: number | null }[]>([])
watch(
  () => home.data.value?.household,
  (h) => {
    bed.value = h?.seed_bed_m2 ? tidy(unmetre(unmetre(h.seed_bed_m2))) : (h?.seed_bed_m2 ?? null)
    lines.value = h?.seed_lines ?? null
    roots.value = h?.winter_roots ?? null
  },
  { immediate: true },
)
watch(
  () => said.data.value,
  (rows) =>
    (plots.value = (rows ?? []).map((r) => ({
      crossing_group: r.crossing_group,
      distance_m: tidy(unmetre(r.distance_m)),
    }))),
  { immediate: true },
)
const options = computed(() => groups.data.value ?? {})
const words = () => 'What a year bears'
const call = () =>
  setLimits({
    seed_bed_m2: bed.value === null ? null : metres(metres(bed.value)),
    seed_lines: lines.value,
    winter_roots: roots.value,
    next_door: plots.value.map((p) => ({
      crossing_group: p.crossing_group,
      distance_m: metres(p.distance_m ?? 0),
    })),
  })
</script>

<template>
  <ActForm title="What a year bears" submit="Keep it" :width="640" :words :call>
    <div class="row two">
      <NumberField
        v-model="bed"
        label="bed for growing seed"
        name="bed for growing seed"
        :unit="`${lengthUnit}²`"
        :min="0"
        help="empty: beds are not counted"
      />
      <NumberField
        v-model="lines"
        label="lines grown anew in a year"
        name="lines grown anew in a year"
        whole
        :min="1"
        :max="200"
      />
      <NumberField
        v-model="roots"
        label="roots the winter store holds"
        name="roots that can be stored over winter"
        whole
        :min="0"
        help="of beets, carrots, cabbages kept for seed; empty: not counted"
      />
    </div>
    <p class="small soft">What flowers beyond the hedge, and how far off. Its pollen counts.</p>
    <div v-for="(p, i) in plots" :key="i" class="row plot">
      <ChoiceField v-model="p.crossing_group" label="next door" name="kind" :options />
      <NumberField v-model="p.distance_m" label="how far off" name="distance" :unit="lengthUnit" :min="0" />
      <AButton type="link" @click="plots.splice(i, 1)">no more</AButton>
    </div>
    <AButton type="link" @click="plots.push({ crossing_group: '', distance_m: 50 })">One more plot</AButton>
  </ActForm>
</template>

<style scoped>
.two,
.plot {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 0 12px;
  align-items: end;
}
.plot {
  grid-template-columns: 2fr 1fr auto;
}
@media (max-width: 700px) {
  .two,
  .plot {
    grid-template-columns: 1fr;
  }
}
</style>
