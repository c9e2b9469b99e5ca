<script setup lang="ts">
import { ref } from 'vue'
import type { Proposal } from '../../api/client'
import ActForm from '../../parts/ActForm.vue'
import { writeJob } from './acts'
import { usePeople } from './people'

/** A job of one's own: what, by when, where, who, and whether it comes again. */
const props = defineProps<{ job?: Proposal; due?: string }>()
const PLACES = ['house', 'cold store', 'greenhouse', 'garden'] as const
const text = ref(props.job?.title ?? '')
const due = ref(props.due ?? '')
const where = ref<string>(props.job?.where ?? 'house')
const people = usePeople()
const who = ref<number | null>(people.value.find((p) => p.label === props.job?.person)?.value ?? null)
const weeks = ref<number | null>(props.job?.every_weeks || null)
const words = () => `To do: ${text.value}`
const call = () =>
  writeJob(props.job?.job_id ?? null, {
    text: text.value, due: due.value || null, where: where.value, person_id: who.value,
    every_weeks: weeks.value ?? 0,
  }) // prettier-ignore
</script>

<template>
  <ActForm
    :title="job ? 'Put the job right' : 'A job of your own'"
    submit="Write it down"
    :ready="text.trim() !== ''"
    :words
    :call
  >
    <TextField v-model="text" label="what" placeholder="turn the jars; ask Morwen for seed" />
    <DateField v-model="due" label="by when" placeholder="today" />
    <ChoiceField v-model="where" label="where" :options="PLACES" />
    <ChoiceField v-if="people.length" v-model="who" label="who" :options="people" none="whoever has time" />
    <NumberField
      v-model="weeks"
      label="again every so many weeks"
      name="every so many weeks"
      whole
      :min="0"
      :max="104"
      placeholder="once"
    />
  </ActForm>
</template>
