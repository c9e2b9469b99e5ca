<script setup lang="ts">
import { ref } from 'vue'
import type { Schemas } from '../../api/client'
import ActForm from '../../parts/ActForm.vue'
import { setSpots } from './acts'

/** Where tests can stand in this house: how warm, light or dark, how many boxes with how many layers. */
const props = defineProps<{ spots: Schemas['SpotLine'][] }>()
const rows = ref(
  props.spots.map(({ name, temperature_c, light, boxes, layers }) => ({
    name,
    temperature_c: temperature_c as number | null,
    light,
    boxes: boxes as number | null,
    layers: layers as number | null,
  })),
)
const LIGHT = { either: 'as one likes', light: 'light', dark: 'dark' }
const add = () => rows.value.push({ name: '', temperature_c: 20, light: 'either', boxes: 1, layers: 4 })
const words = () => 'Spots for tests'
const call = () =>
  setSpots(
    rows.value.map((r) => ({
      name: r.name,
      light: r.light,
      temperature_c: r.temperature_c ?? 20,
      boxes: r.boxes ?? 1,
      layers: r.layers ?? 1,
    })),
  )
</script>

<template>
  <ActForm
    title="Where tests can stand"
    submit="Keep them"
    :width="720"
    :ready="rows.length > 0 && rows.every((r) => r.name.trim() !== '')"
    :words
    :call
  >
    <div v-for="(r, i) in rows" :key="i" class="row spot">
      <TextField
        v-model="r.name"
        label="spot"
        :name="i ? `spot ${i + 1}` : 'name'"
        placeholder="kitchen sill"
      />
      <SpotField v-model="r.temperature_c" label="warmth" :hears="`warmth of ${r.name}`" />
      <ChoiceField v-model="r.light" label="light" :options="LIGHT" :hears="`light of ${r.name}`" />
      <NumberField
        v-model="r.boxes"
        label="boxes"
        name="boxes"
        whole
        :min="1"
        :max="50"
        :hears="`boxes on ${r.name}`"
      />
      <NumberField
        v-model="r.layers"
        label="layers"
        name="layers"
        whole
        :min="1"
        :max="20"
        :hears="`layers on ${r.name}`"
      />
      <AButton
        v-if="rows.length > 1"
        type="link"
        :aria-label="`no longer ${r.name}`"
        @click="rows.splice(i, 1)"
        >no more</AButton
      >
    </div>
    <AButton type="link" @click="add">One more spot</AButton>
  </ActForm>
</template>

<style scoped>
.spot {
  display: grid;
  grid-template-columns: 2fr 1fr 1.2fr 0.8fr 0.8fr auto;
  gap: 0 10px;
  align-items: end;
}
@media (max-width: 700px) {
  .spot {
    grid-template-columns: 1fr 1fr;
  }
}
</style>
