<script setup lang="ts">
import { computed, nextTick, ref, watch } from 'vue'
import { useRouter } from 'vue-router'
import { useDebounceFn } from '@vueuse/core'
import { api, take, type Schemas } from '../api/client'
import { useNeeds, useToday } from '../api/queries'

type Hit = {
  key: string
  code: string
  words: string
  where: string
  state: string
  kind: string
  to: string
}
const router = useRouter()
const open = ref(false)
const text = ref('')
const index = ref(0)
const input = ref<HTMLInputElement | null>(null)
// what else there is to find is asked for when somebody looks
const needs = useNeeds(open)
const today = useToday(open)
const found = ref<Schemas['Hit'][]>([])
/** The words that `found` answers, and what went wrong with them. */
const answered = ref('')
const trouble = ref('')

/** Seeds and places: the larder finds them, spelled badly too, and says where to put your hand. */
async function look() {
  const q = text.value.trim()
  let got: Schemas['Hit'][] = []
  let wrong = ''
  try {
    if (q) got = await take(api.GET('/api/stock/find', { params: { query: { q } } }))
  } catch (error) {
    wrong = (error as Error).message
  }
  if (q !== text.value.trim()) return
  const marked = index.value > 0 ? hits.value[index.value]?.key : undefined
  found.value = got
  trouble.value = wrong
  answered.value = q
  if (marked) index.value = Math.max(0, hits.value.findIndex((h) => h.key === marked)) // prettier-ignore
}
const ask = useDebounceFn(look, 90)
watch(text, () => ask())
const rest = computed<Hit[]>(() =>
  [
    ...(needs.data.value?.lines ?? []).map((n) => ({ key: n.key, words: n.name, kind: 'need', to: '/needs' })),
    ...[...(today.data.value?.jobs ?? []), ...(today.data.value?.later ?? [])].map((j) => ({
      key: j.origin_key, words: j.title, kind: 'job', to: '/today',
    })),
  ].map((h) => ({ ...h, code: '', where: '', state: '' })),
) // prettier-ignore
const hits = computed<Hit[]>(() => {
  const words = text.value.toLowerCase().split(/\s+/).filter(Boolean)
  if (!words.length) return []
  return [
    ...found.value.map((h) => ({
      key: `${h.what}${h.row_id}`, code: h.code, words: h.title, where: h.where, state: h.state, kind: h.what,
      to: h.what === 'seed' ? `/stock/${h.row_id}` : `/storage/${h.row_id}`,
    })),
    ...rest.value.filter((h) => words.every((w) => h.words.toLowerCase().includes(w))).slice(0, 5),
  ]
}) // prettier-ignore

async function show() {
  open.value = true
  text.value = ''
  found.value = []
  answered.value = trouble.value = ''
  index.value = 0
  await nextTick()
  input.value?.focus()
}
function go(hit: Hit | undefined) {
  if (!hit) return
  open.value = false
  router.push(hit.to)
}
/** Enter takes the hit that is marked, never one that stands there only until the answer comes. */
async function enter() {
  const q = text.value.trim()
  if (answered.value !== q && index.value === 0) await look()
  if (open.value && q === text.value.trim()) go(hits.value[index.value])
}
defineExpose({ show })
</script>

<template>
  <button class="find" type="button" @click="show">Find seed, place, job <kbd>/</kbd></button>
  <div v-if="open" class="veil" @click.self="open = false">
    <div class="box card" role="dialog" aria-modal="true" aria-label="Find anything">
      <input
        ref="input"
        v-model="text"
        class="plain"
        aria-label="Find"
        placeholder="code, name, kind, place, food, job"
        @input="index = 0"
        @keydown.esc.stop="open = false"
        @keydown.down.prevent="index = Math.min(index + 1, hits.length - 1)"
        @keydown.up.prevent="index = Math.max(index - 1, 0)"
        @keydown.enter="enter"
      />
      <ul role="listbox" aria-label="Found">
        <li v-for="(h, i) in hits" :key="h.key" role="option" :aria-selected="i === index" @click="go(h)">
          <span class="soft small">{{ h.kind }}</span> <span v-if="h.code" class="code">{{ h.code }}</span>
          {{ h.words }}
          <div v-if="h.where" class="where">
            {{ h.where }}<span v-if="h.state" class="act"> · {{ h.state }}</span>
          </div>
        </li>
        <li v-if="trouble" class="soft" role="alert">The larder could not be asked: {{ trouble }}</li>
        <li v-else-if="text.trim() && answered === text.trim() && !hits.length" class="soft">
          Nothing by that name. Codes, kinds and places work too.
        </li>
      </ul>
    </div>
  </div>
</template>

<style scoped>
.find {
  border: 1px solid var(--hair);
  background: var(--page);
  color: var(--soft);
  border-radius: 3px;
  padding: 5px 12px;
  font: 15px var(--sans);
  min-width: 250px;
  text-align: left;
  cursor: pointer;
  display: flex;
  justify-content: space-between;
  gap: 10px;
}
.veil {
  position: fixed;
  inset: 0;
  background: rgb(20 20 20 / 35%);
  z-index: 1200;
  padding: 10vh 12px;
}
.box {
  max-width: 640px;
  margin: auto;
}
.box input {
  width: 100%;
  font-size: 18px;
}
ul {
  list-style: none;
  margin: 8px 0 0;
  padding: 0;
}
li {
  padding: 8px;
  cursor: pointer;
  border-top: 1px solid var(--hair-soft);
}
li[aria-selected='true'] {
  background: var(--act-wash);
}
.where {
  padding-left: 52px;
  color: var(--soft);
}
li .small {
  display: inline-block;
  width: 48px;
}
@media (max-width: 760px) {
  .find {
    min-width: 0;
    flex: 1;
    min-height: 44px;
    align-items: center;
  }
}
</style>
