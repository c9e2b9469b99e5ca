<script setup lang="ts">
/** A file is chosen, by hand, by keyboard or dropped; what becomes of it is the room's business. */
defineProps<{ words: string; accept: string; drop?: boolean; link?: boolean; hint?: string }>()
const emit = defineEmits<{ file: [file: File] }>()
function taken(file: File) {
  emit('file', file)
  return false // sent by the room, which says what came of it
}
</script>

<template>
  <AUploadDragger v-if="drop" :accept :show-upload-list="false" :before-upload="taken">
    <strong>{{ words }}</strong>
    &nbsp;<span class="small soft">{{ hint ?? 'or drop it here' }}</span>
  </AUploadDragger>
  <AUpload v-else :accept :show-upload-list="false" :before-upload="taken">
    <span class="btn" :class="link ? 'link' : 'quiet'">{{ words }}</span>
  </AUpload>
</template>
