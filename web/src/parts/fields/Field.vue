<script setup lang="ts">
import { computed, useId } from 'vue'
import { useProblem } from './problems'

/** A control with its name above it and what is wrong beside it. */
const props = defineProps<{ label: string; name?: string; wrong?: string; help?: string }>()
const id = useId()
const problem = useProblem(() => [props.name, props.label])
const said = computed(() => props.wrong || problem())
</script>

<template>
  <AFormItem
    class="field"
    :data-field="name ?? label"
    :label
    :colon="false"
    :html-for="id"
    :validate-status="said ? 'error' : undefined"
    :help="said || help"
    :label-col="{ span: 24 }"
    :wrapper-col="{ span: 24 }"
  >
    <slot :id />
  </AFormItem>
</template>
