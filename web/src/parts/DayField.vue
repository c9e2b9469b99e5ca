<script setup lang="ts">
import { AutoComplete } from 'ant-design-vue'
import { ref } from 'vue'

/** The day on which something happened, as people say it; empty is today. The larder reads it. */
const on = defineModel<string>({ required: true })
defineProps<{ label?: string }>()
const options = ['today', 'yesterday', 'last Monday', 'a week ago'].map((value) => ({ value }))
// offered while nothing is typed; afterwards it would only lie over the button below
const offered = ref(false)
</script>

<template>
  <label class="field"
    >{{ label ?? 'when'
    }}<AutoComplete
      v-model:value="on"
      class="day"
      :options="options"
      :open="offered && !on"
      placeholder="today"
      allow-clear
      @dropdown-visible-change="(open: boolean) => (offered = open)"
  /></label>
</template>

<style scoped>
.day {
  min-width: 130px;
}
@media (max-width: 760px) {
  .day :deep(.ant-select-selector),
  .day :deep(.ant-select-selection-search-input) {
    height: 44px !important;
    align-items: center;
  }
}
</style>
