<script setup lang="ts">
import { computed, ref } from 'vue'
import type { Proposal, Schemas } from '../../api/client'
import ActForm from '../../parts/ActForm.vue'
import { writeJob } from './acts'

/** A job of one's own: what, by when, where, who, and whether it comes again. */
const props = defineProps<{ people: Schemas['Person'][]; job?: Proposal; due?: string }>()
const PLACES = ['house', 'cold store', 'greenhouse', 'garden'] as const
const text = ref(props.job?.title ?? '')
const due = ref(props.due ?? '')
const where = ref<string>(props.job?.where ?? 'house')
const who = ref<number | null>(props.people.find((p) => p.name === props.job?.person)?.id ?? null)
const weeks = ref<number | null>(props.job?.every_weeks || null)
const people = computed(() => props.people.map((p) => ({ value: p.id ?? 0, label: p.name })))
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
    :words="words"
    :call="call"
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
