<script setup lang="ts">
import { computed, ref } from 'vue'
import type { Schemas } from '../../api/client'
import ActForm from '../../parts/ActForm.vue'
import { useAxis } from '../../parts/axis'
import { iso } from '../../parts/words'
import { setJobs } from './acts'
import { usePeople } from './people'

/** A row of the list is moved to a later day, or handed to somebody. */
const props = defineProps<{ what: 'move' | 'hand'; row: Schemas['Row'] }>()
const { nowS } = useAxis()
const people = usePeople()
const DAY = 86_400
const date = ref(iso(nowS.value + 7 * DAY))
const who = ref<number | null>(people.value[0]?.value ?? null)
const keys = computed(() => props.row.jobs.map((j) => j.origin_key))
const name = computed(() => people.value.find((p) => p.value === who.value)?.label ?? '')
const words = () =>
  `${props.row.title}: ${props.what === 'move' ? `moved to ${date.value}` : `handed over to ${name.value}`}`
const call = () =>
  props.what === 'move'
    ? setJobs(keys.value, 'moved', { moved_to_s: Date.parse(date.value) / 1000 + DAY / 2 })
    : setJobs(keys.value, 'handed_over', { person_id: who.value })
</script>

<template>
  <ActForm
    :title="what === 'move' ? 'Move it to a later day' : 'Hand it to'"
    :submit="what === 'move' ? 'Move it' : 'Hand it over'"
    :ready="what === 'move' ? date !== '' : who !== null"
    :words
    :call
  >
    <p>{{ row.title }}</p>
    <DateField v-if="what === 'move'" v-model="date" label="to" name="moved to" :from="iso(nowS + DAY)" />
    <ChoiceField v-else v-model="who" label="who" name="handed to" :options="people" />
  </ActForm>
</template>
