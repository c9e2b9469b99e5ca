<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { computed } from 'vue'
import { useAct } from '../../api/queries'
import { calendarAddress, closeAddress, newAddress } from './acts'

/** The jobs as a calendar: a file, and a private address that a calendar asks again and again. */
const found = useQuery({ queryKey: ['calendar'], queryFn: calendarAddress })
const act = useAct()
const url = computed(() => (found.data.value?.path ? window.location.origin + found.data.value.path : ''))
</script>

<template>
  <div class="card calendar">
    <span class="name">Calendar</span>
    <span class="soft">every job that has a day, and the days on which sowing opens</span>
    <div class="row">
      <a class="btn quiet" href="/api/calendar.ics" download>As a file</a>
      <AButton v-if="!url" @click="act.run('Made an address for the calendar', newAddress)"
        >Make a private address</AButton
      >
      <template v-else>
        <AButton @click="act.run('Made a new address for the calendar', newAddress)">A new address</AButton>
        <AButton type="link" @click="act.run('Closed the calendar’s address', closeAddress)"
          >close it</AButton
        >
      </template>
    </div>
    <p v-if="url" class="small">
      A calendar that is given this address keeps itself up to date. Who knows it can read the jobs:
      <code>{{ url }}</code>
    </p>
  </div>
</template>

<style scoped>
.calendar {
  display: flex;
  flex-direction: column;
  gap: 6px;
  max-width: 760px;
  margin-top: 12px;
}
code {
  overflow-wrap: anywhere;
}
</style>
