<script setup lang="ts">
import { ref } from 'vue'
import ActForm from '../../parts/ActForm.vue'
import { wish } from './acts'

/** Seed one wishes for beside the foods. */
const kind = ref('')
const variety = ref('')
const plants = ref<number | null>(20)
const priority = ref('3')
const season = ref('')
const place = ref('')
const note = ref('')
const MATTERS = { 5: 'very much', 4: 'much', 3: 'so so', 2: 'little', 1: 'only if there is money left' }
const words = () => `Wishes for ${variety.value || kind.value}`
const call = () =>
  wish({
    kind: kind.value, variety: variety.value, plants: plants.value ?? 20, priority: Number(priority.value),
    season: season.value, place: place.value, note: note.value,
  }) // prettier-ignore
</script>

<template>
  <ActForm title="Wish for seed" submit="Put it on the list" :ready="kind.trim() !== ''" :words :call>
    <div class="two">
      <KindField v-model="kind" />
      <TextField v-model="variety" label="variety" name="variety" placeholder="any" />
      <NumberField v-model="plants" label="plants" name="plants" count />
      <ChoiceField v-model="priority" label="how much it matters" :options="MATTERS" />
      <TextField v-model="season" label="season" name="season" placeholder="spring 2027" />
      <TextField v-model="place" label="place for it" name="place" placeholder="by the south wall" />
      <TextField v-model="note" label="note" name="note" />
    </div>
  </ActForm>
</template>

<style scoped>
.two {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 0 12px;
}
@media (max-width: 600px) {
  .two {
    grid-template-columns: 1fr;
  }
}
</style>
