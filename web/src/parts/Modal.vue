<script setup lang="ts">
import { Modal } from 'ant-design-vue'

defineProps<{ open: boolean; title: string; width?: number }>()
const emit = defineEmits<{ close: [] }>()
</script>

<template>
  <Modal
    :open="open"
    :title="title"
    :width="width ?? 560"
    :footer="null"
    destroy-on-close
    @cancel="emit('close')"
  >
    <slot />
  </Modal>
</template>
