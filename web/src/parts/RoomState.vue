<script setup lang="ts" generic="T">
import type { Ref } from 'vue'
import { Problem } from '../api/client'

/** Loading, what went wrong, and else the data: the same in every room. */
defineProps<{
  query: {
    data: Ref<T | undefined>
    error: Ref<Error | null>
    isPending: Ref<boolean>
    isError: Ref<boolean>
    refetch: () => unknown
  }
  rows?: number
}>()
/** What is no longer there is not shown as if it were. */
const gone = (error: Error | null) => error instanceof Problem && error.status === 404
</script>

<template>
  <div v-if="query.isPending.value" class="skeleton" role="status" aria-label="Loading">
    <ASkeleton active :title="false" :paragraph="{ rows: rows ?? 8 }" />
  </div>
  <AResult
    v-else-if="query.isError.value && (query.data.value === undefined || gone(query.error.value))"
    status="warning"
    title="This could not be read"
    :sub-title="query.error.value?.message"
  >
    <template #extra><AButton @click="query.refetch()">Try again</AButton></template>
  </AResult>
  <slot v-else-if="query.data.value !== undefined" :data="query.data.value as T" />
</template>
