<script setup lang="ts">
import { useEventListener } from '@vueuse/core'
import { nextTick, ref } from 'vue'
import type { Schemas } from '../../api/client'
import { useAct } from '../../api/queries'
import { addKind } from './acts'
import NewKind from './NewKind.vue'

/** One question about a word that no kind is called: the likeliest three, a kind of one's own, or unknown. */
const props = defineProps<{ word: string; candidates: Schemas['Candidate'][] }>()
const emit = defineEmits<{ is: [name: string]; unknown: [] }>()
const act = useAct(true)
const box = ref<HTMLElement | null>(null)
const own = ref(false)
/** It waits until the hand rests, and never takes the focus from one who types on. */
const REST_MS = 900
let last = 0
useEventListener('keydown', () => (last = Date.now()))
async function ask() {
  await nextTick()
  const asked = Date.now()
  last = asked
  setTimeout(() => {
    if (last === asked) box.value?.querySelector<HTMLElement>('button')?.focus()
  }, REST_MS)
}
async function choose(c: Schemas['Candidate']) {
  if (c.how !== 'stand_in') return emit('is', c.name)
  const body = { name: props.word, stand_in: c.key, season: 'flower' as const }
  if (await act.run(`Added the kind ${props.word}`, () => addKind(body))) emit('is', props.word)
}
defineExpose({ ask })
</script>

<template>
  <div ref="box" class="card stranger" role="group" aria-label="What kind is it?">
    <p>
      What is <strong>{{ word }}</strong>?
    </p>
    <div class="row">
      <AButton v-for="c in candidates" :key="c.key" type="primary" @click="choose(c)">
        {{ c.how === 'stand_in' ? `${word}, reckoned like ${c.name}` : c.name }}
      </AButton>
      <AButton type="primary" ghost @click="own = !own">a kind of our own</AButton>
      <AButton @click="emit('unknown')">nobody knows</AButton>
    </div>
    <NewKind v-if="own" :name="word" @added="emit('is', word)" />
  </div>
</template>

<style scoped>
.stranger {
  margin: 8px 0;
  background: var(--act-wash);
}
p {
  margin: 0 0 6px;
}
</style>
