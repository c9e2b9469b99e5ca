<script setup lang="ts">
import { ref } from 'vue'
import { asProblem, type Schemas } from '../api/client'
import { lastProblem, useAct } from '../api/queries'
import { provideProblems } from './fields/problems'
import Sheet from './Sheet.vue'

/**
 * One form, one act: one id for it, a guard against the second tap, a refusal beside the field it names,
 * cautions asked first, and the note with its take-back. With a title it stands in a sheet, for as long as
 * it is there.
 */
const props = withDefaults(
  defineProps<{
    /** What is said when it is done. */
    words: () => string
    call: (anyway: boolean) => Promise<Schemas['Answer']>
    /** What is looked up before; a Problem it throws lands on the field it names. */
    prepare?: () => Promise<void>
    submit: string
    ready?: boolean
    title?: string
    width?: number
    quiet?: boolean
    again?: boolean
    inline?: boolean
  }>(),
  { ready: true },
)
const emit = defineEmits<{ close: []; done: [answer: Schemas['Answer']] }>()
const act = useAct(false, true)
const { said, place, clear } = provideProblems()
const going = ref(false)
async function tried() {
  try {
    await props.prepare?.()
  } catch (error) {
    lastProblem.value = asProblem(error)
    return null
  }
  return act.runAsking(props.words(), props.call, props.again)
}
async function save() {
  if (!props.ready || going.value) return
  going.value = true
  clear()
  const answer = await tried()
  going.value = false
  if (!answer) {
    const problem = lastProblem.value
    if (problem && place(problem)) lastProblem.value = null
    return
  }
  emit('done', answer)
  if (props.title) emit('close')
}
defineExpose({ save })
</script>

<template>
  <component
    :is="title ? Sheet : 'div'"
    v-bind="title ? { open: true, title, width } : {}"
    @close="emit('close')"
  >
    <AForm class="act-form" :class="{ inline }" layout="vertical" :colon="false" @submit.prevent="save">
      <slot :said :busy="going || act.busy.value" />
      <div class="end">
        <slot name="beside" />
        <AButton type="primary" html-type="submit" :ghost="quiet" :disabled="!ready || act.busy.value">
          <slot name="submit">{{ submit }}</slot>
        </AButton>
      </div>
    </AForm>
  </component>
</template>
