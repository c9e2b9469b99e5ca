<script setup lang="ts">
import { onBeforeUnmount, ref, useId, watch } from 'vue'
import { sheetsOpen } from './sheets'

/** A dialog: focus goes to its first field and back to where it was; on a phone it fills the screen. */
const props = defineProps<{ open: boolean; title: string; width?: number }>()
const emit = defineEmits<{ close: [] }>()
const id = useId()
const counted = ref(false)
let before: HTMLElement | null = null
watch(
  () => props.open,
  (open) => {
    if (open) {
      before = document.activeElement as HTMLElement | null
      // the library takes the focus to the dialog's frame when it stands; then it goes to the first field
      for (const wait_ms of [40, 160, 400]) setTimeout(() => props.open && settled(true), wait_ms)
    }
    if (open !== counted.value) sheetsOpen.value += open ? 1 : -1
    counted.value = open
  },
  { immediate: true },
)
onBeforeUnmount(() => {
  if (!counted.value) return
  sheetsOpen.value -= 1
  const back = before
  requestAnimationFrame(() => back?.isConnected && back.focus())
})
const FIELDS = 'input:not([type=hidden]):not(:disabled), textarea, select'
function settled(open: boolean) {
  if (!open) return before?.isConnected ? before.focus() : undefined
  const body = document.getElementById(id)
  // a dialog of its own over this one keeps its focus
  if (!body || body.contains(document.activeElement)) return
  const first = body.querySelector<HTMLElement>(`[autofocus], ${FIELDS}`) ?? body.querySelector('button')
  ;(first as HTMLElement | null)?.focus()
}
</script>

<template>
  <AModal
    :open
    :title
    :width="width ?? 560"
    :footer="null"
    wrap-class-name="sheet"
    destroy-on-close
    :after-close="() => settled(false)"
    @after-open-change="settled"
    @cancel="emit('close')"
  >
    <div :id><slot /></div>
  </AModal>
</template>
