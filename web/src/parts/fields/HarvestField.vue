<script setup lang="ts">
/** When seed was harvested or packed, as far as it is known. */
const date = defineModel<string>({ required: true })
</script>

<template>
  <DayField
    v-model="date"
    label="harvested or packed"
    name="date"
    of="years"
    placeholder="2024, Sep 2024, ?"
  />
</template>
