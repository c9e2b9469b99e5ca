<script setup lang="ts">
import { computed } from 'vue'
import { useShelves } from '../../api/queries'

/** A container or a place of the household; `none` says what it means to choose no one. */
const node = defineModel<number | null>({ required: true })
const props = defineProps<{ label: string; none?: string; says?: boolean; all?: boolean; but?: number }>()
const shelves = useShelves()
const options = computed(() =>
  (shelves.data.value ?? [])
    .flatMap((s) => (props.all ? [s.place, ...s.boxes] : s.boxes.length ? s.boxes : [s.place]))
    .filter((b) => b.node_id !== props.but)
    .map((b) => ({ value: b.node_id, label: props.says ? `${b.path} (${b.says})` : b.path })),
)
</script>

<template>
  <ChoiceField v-model="node" :label :options :none name="node_id" />
</template>
