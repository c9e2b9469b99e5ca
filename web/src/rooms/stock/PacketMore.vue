<script setup lang="ts">
import { wordsOf } from '../../parts/words'
import { useWriting } from '../../parts/writing'
import type { Line } from './entry'
import { USES } from './forms/lots'

/** What the packet says, and what else is known of it; all of it optional. */
const line = defineModel<Line>({ required: true })
const { depthUnit } = useWriting()
</script>

<template>
  <div class="more">
    <TextField v-model="line.packet_sow_window" label="sow in" placeholder="Mar to Jun" />
    <TextField v-model="line.packet_depth_cm" label="depth" :unit="depthUnit" decimal />
    <TextField v-model="line.packet_days_to_sprout" label="days to sprout" placeholder="6 to 9" />
    <TextField v-model="line.packet_days_to_harvest" label="days to harvest" placeholder="60" />
    <TextField v-model="line.stated" label="stated germination" unit="%" decimal />
    <ChoiceField
      v-if="line.stated.trim()"
      v-model="line.stated_as"
      label="that is"
      :options="[
        { value: '', label: 'as is usual' },
        { value: 'tested', label: 'what was found' },
        { value: 'at_least', label: 'at least' },
      ]"
    />
    <TextField v-model="line.tested" label="tested once" name="tested" placeholder="9/10" />
    <TextField v-if="line.tested.trim()" v-model="line.tested_on" label="when" placeholder="nobody knows" />
    <ChoiceField v-model="line.form" label="there as" none="as it says" :options="wordsOf('form')" />
    <TextField v-model="line.packet_count" label="seeds in a packet" />
    <TextField v-model="line.seller" label="seller" />
    <TextField v-model="line.price" label="price" decimal />
    <TextField v-model="line.person_from" label="given by" />
    <TextField v-model="line.section" label="section" />
    <TextField v-model="line.slot" label="slot" />
    <TextField v-model="line.code" label="own code" placeholder="the next one" />
    <TextField v-model="line.tags" label="tags" placeholder="early, for Tam" />
    <ChoiceField v-model="line.intended_use" label="meant for" :options="USES" />
    <TextField v-model="line.note" label="note" class="note" />
    <div class="ticks small">
      <ACheckbox v-model:checked="line.kept_line">a line to keep</ACheckbox>
      <ACheckbox v-model:checked="line.hybrid">hybrid</ACheckbox>
      <ACheckbox v-model:checked="line.treated">dressed</ACheckbox>
      <ACheckbox v-model:checked="line.crossed_risk">may have crossed</ACheckbox>
      <ACheckbox v-model:checked="line.from_kitchen">out of kitchen produce</ACheckbox>
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
