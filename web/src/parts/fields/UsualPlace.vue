<script setup lang="ts">
import { computed } from 'vue'
import { useStorageKinds } from '../../api/queries'

/** Where seed lies of which nobody said where: a kind of place, and what it lies in there. */
const place = defineModel<string>('place', { required: true })
const wrapper = defineModel<string>('wrapper', { required: true })
const kinds = useStorageKinds()
const called = (of: Record<string, string> | undefined) =>
  Object.keys(of ?? {})
    .map((value) => ({ value, label: kinds.data.value?.names[value]?.[0] ?? value }))
    .sort((a, b) => a.label.localeCompare(b.label))
const places = computed(() => called(kinds.data.value?.places))
const wrappers = computed(() => called(kinds.data.value?.containers))
</script>

<template>
  <ChoiceField v-model="place" label="seed usually lies in" name="unplaced_kind" :options="places" />
  <ChoiceField v-model="wrapper" label="there in" name="unplaced_wrapper" :options="wrappers" />
</template>
