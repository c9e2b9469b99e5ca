<script setup lang="ts">
import { useElementSize } from '@vueuse/core'
import { ref, watch, watchEffect } from 'vue'
import { lastAct, lastProblem, useUndo } from '../api/queries'

const { undo, busy } = useUndo()
let timer: ReturnType<typeof setTimeout> | undefined
watch(lastAct, () => {
  clearTimeout(timer)
  timer = setTimeout(() => (lastAct.value = null), 30_000)
})
/** What is fixed at the foot of a page stands above the note, so that no button lies under it. */
const foot = ref<HTMLElement | null>(null)
const { height } = useElementSize(foot)
watchEffect(() =>
  document.documentElement.style.setProperty('--note', height.value ? `${height.value + 16}px` : '0px'),
)
</script>

<template>
  <div ref="foot" class="foot">
    <div v-if="lastProblem" class="note problem" role="alert">
      <div>
        <strong>{{ lastProblem.title }}.</strong> {{ lastProblem.message }}
        <ul v-if="lastProblem.problems.length > 1">
          <li v-for="p in lastProblem.problems.slice(0, 6)" :key="`${p.line}${p.field}`">
            line {{ p.line }}, {{ p.field }}: {{ p.reason }}
          </li>
        </ul>
      </div>
      <AButton @click="lastProblem = null">Close</AButton>
    </div>
    <div v-else-if="lastAct" class="note" role="status">
      <span>{{ lastAct.undone ? `Took back: ${lastAct.words}` : lastAct.words }}</span>
      <AButton type="primary" ghost :disabled="busy" @click="undo(lastAct.id, lastAct.words)">
        {{ lastAct.undone ? 'Do it again' : 'Take back' }} <kbd>u</kbd>
      </AButton>
      <AButton type="text" aria-label="put this note away" @click="lastAct = null">×</AButton>
    </div>
  </div>
</template>

<style scoped>
.foot {
  position: fixed;
  bottom: 14px;
  left: 0;
  right: 0;
  display: flex;
  justify-content: center;
  pointer-events: none;
  z-index: 1100;
}
.note {
  pointer-events: auto;
  background: var(--page);
  border: 1px solid var(--ink);
  border-radius: 4px;
  padding: 8px 10px 8px 16px;
  display: flex;
  gap: 16px;
  align-items: center;
  max-width: min(720px, 94vw);
  box-shadow: 0 2px 10px rgb(0 0 0 / 12%);
}
.note > :deep(.ant-btn) {
  flex: none;
}
.problem {
  border: 2px solid var(--warm);
}
ul {
  margin: 4px 0 0;
  padding-left: 18px;
}
@media (max-width: 760px) {
  .foot {
    bottom: 66px;
  }
}
</style>
