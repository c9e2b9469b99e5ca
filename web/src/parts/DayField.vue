<script setup lang="ts">
import { AutoComplete } from 'ant-design-vue'

/** The day on which something happened, as people say it; empty is today. The larder reads it. */
const on = defineModel<string>({ required: true })
defineProps<{ label?: string }>()
const options = ['today', 'yesterday', 'last Monday', 'a week ago'].map((value) => ({ value }))
</script>

<template>
  <label class="field"
    >{{ label ?? 'when'
    }}<AutoComplete v-model:value="on" class="day" :options="options" placeholder="today" allow-clear
  /></label>
</template>

<style scoped>
.day {
  min-width: 130px;
}
</style>
