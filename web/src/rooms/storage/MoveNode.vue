<script setup lang="ts">
import { ref } from 'vue'
import type { Box } from '../../api/client'
import ActForm from '../../parts/ActForm.vue'
import { usePlaces } from '../../parts/fields/places'
import { moveNode } from './acts'

/** A container goes elsewhere with all that is in it. */
const props = defineProps<{ box: Box }>()
const { path } = usePlaces()
const to = ref<number | null>(null)
const on = ref('')
const words = () => `Moved ${props.box.name} to ${path(to.value)}`
const call = (anyway: boolean) => moveNode(props.box.node_id, to.value ?? 0, on.value, anyway)
</script>

<template>
  <ActForm :title="`Move ${box.name}`" submit="Move it with all in it" :ready="to !== null" :words :call>
    <PlaceField v-model="to" label="to" all :but="box.node_id" />
    <DayField v-model="on" label="on" />
  </ActForm>
</template>
