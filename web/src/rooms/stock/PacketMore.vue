<script setup lang="ts">
import type { Line } from './entry'

/** What the packet says, and what else is known of it; all of it optional. */
const line = defineModel<Line>({ required: true })
</script>

<template>
  <div class="more">
    <label class="field">sow in<input v-model="line.packet_sow_window" placeholder="Mar to Jun" /></label>
    <label class="field">depth, cm<input v-model="line.packet_depth_cm" inputmode="decimal" /></label>
    <label class="field"
      >days to sprout<input v-model="line.packet_days_to_sprout" placeholder="6 to 9"
    /></label>
    <label class="field"
      >days to harvest<input v-model="line.packet_days_to_harvest" placeholder="60"
    /></label>
    <label class="field">stated germination, %<input v-model="line.stated" inputmode="decimal" /></label>
    <label class="field">seeds in a packet<input v-model="line.packet_count" inputmode="numeric" /></label>
    <label class="field">seller<input v-model="line.seller" /></label>
    <label class="field">price<input v-model="line.price" inputmode="decimal" /></label>
    <label class="field">given by<input v-model="line.person_from" /></label>
    <label class="field">section<input v-model="line.section" /></label>
    <label class="field">slot<input v-model="line.slot" /></label>
    <label class="field">own code<input v-model="line.code" placeholder="the next one" /></label>
    <label class="field">tags<input v-model="line.tags" placeholder="early, for Tam" /></label>
    <label class="field"
      >meant for<select v-model="line.intended_use">
        <option v-for="u in ['seed', 'food', 'shoots', 'sale', 'swap']" :key="u">{{ u }}</option>
      </select></label
    >
    <label class="field note">note<input v-model="line.note" /></label>
    <div class="ticks small">
      <label><input v-model="line.kept_line" type="checkbox" /> a line to keep</label>
      <label><input v-model="line.hybrid" type="checkbox" /> hybrid</label>
      <label><input v-model="line.treated" type="checkbox" /> dressed</label>
      <label><input v-model="line.crossed_risk" type="checkbox" /> may have crossed</label>
      <label><input v-model="line.from_kitchen" type="checkbox" /> out of kitchen produce</label>
    </div>
  </div>
</template>

<style scoped>
.more {
  display: grid;
  grid-template-columns: repeat(auto-fill, minmax(140px, 1fr));
  gap: 8px;
  border-top: 1px solid var(--hair);
  padding-top: 8px;
}
.note {
  grid-column: span 2;
}
.ticks {
  grid-column: 1 / -1;
  display: flex;
  gap: 18px;
  flex-wrap: wrap;
}
</style>
