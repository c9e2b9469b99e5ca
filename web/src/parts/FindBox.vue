<script setup lang="ts">
import { useDebounceFn } from '@vueuse/core'
import { computed, nextTick, ref, watch } from 'vue'
import { useRouter } from 'vue-router'
import { api, take, type Schemas } from '../api/client'
import { useFilesAt, useGiving, useNeeds, useToday } from '../api/queries'
import { isSheet, useSheet } from './sheets'

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
const open = isSheet(useSheet('find'), '1')
const text = ref('')
const index = ref(0)
const list = ref<HTMLElement | null>(null)
// what else there is to find is asked for when somebody looks
const needs = useNeeds(open)
const today = useToday(open)
const giving = useGiving(open)
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
    ...(giving.data.value?.people ?? []).map((p) => ({
      key: `who${p.person}`, words: p.person, kind: 'person', to: '/papers/parcels',
    })),
    ...(needs.data.value?.lines ?? []).map((n) => ({ key: n.key, words: n.name, kind: 'food', to: '/needs' })),
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
    ...rest.value.filter((h) => words.every((w) => h.words.toLowerCase().includes(w))).slice(0, 6),
  ]
}) // prettier-ignore
/** Where the marked packet files: between which two others to put the hand. */
const marked = computed(() => hits.value[index.value])
const filed = useFilesAt(
  computed(() => (marked.value?.kind === 'seed' ? Number(marked.value.to.slice(7)) : null)),
)
function show() {
  text.value = answered.value = trouble.value = ''
  found.value = []
  index.value = 0
  open.value = true
}
async function mark(by: number) {
  index.value = Math.min(Math.max(index.value + by, 0), Math.max(hits.value.length - 1, 0))
  await nextTick()
  list.value?.querySelector('[aria-selected=true]')?.scrollIntoView({ block: 'nearest' })
}
// the address of the hit takes the place of that of the search: Back leads to where one was
const go = (hit: Hit | undefined) => hit && void router.replace(hit.to)
/** Enter takes the hit that is marked, never one that stands there only until the answer comes. */
async function enter() {
  const q = text.value.trim()
  if (answered.value !== q && index.value === 0) await look()
  if (open.value && q === text.value.trim()) go(hits.value[index.value])
}
defineExpose({ show })
</script>

<template>
  <AButton class="find" @click="show">Find seed, place, job, person <kbd>/</kbd></AButton>
  <Sheet :open title="Find anything" :width="680" @close="open = false">
    <AInput
      v-model:value="text"
      size="large"
      role="combobox"
      aria-label="Find"
      aria-expanded="true"
      aria-controls="found"
      :aria-activedescendant="hits[index] ? `hit${index}` : undefined"
      placeholder="code, name, kind, place, food, job, person"
      autocomplete="off"
      @input="index = 0"
      @keydown.down.prevent="mark(1)"
      @keydown.up.prevent="mark(-1)"
      @keydown.enter="enter"
    />
    <ul id="found" ref="list" role="listbox" aria-label="Found">
      <li
        v-for="(h, i) in hits"
        :id="`hit${i}`"
        :key="h.key"
        role="option"
        :aria-selected="i === index"
        @click="go(h)"
      >
        <span class="soft small">{{ h.kind }}</span> <span v-if="h.code" class="code">{{ h.code }}</span>
        {{ h.words }}
        <div v-if="h.where" class="where">
          {{ h.where
          }}<template v-if="i === index && filed.data.value">, {{ filed.data.value.words }}</template
          ><span v-if="h.state" class="act"> · {{ h.state }}</span>
        </div>
      </li>
    </ul>
    <p v-if="trouble" class="soft" role="alert">The larder could not be asked: {{ trouble }}</p>
    <p v-else-if="text.trim() && answered === text.trim() && !hits.length" class="soft" role="status">
      Nothing by that name. Codes, kinds and places work too.
    </p>
  </Sheet>
</template>

<style scoped>
.find {
  min-width: 250px;
  display: inline-flex;
  justify-content: space-between;
  align-items: center;
  color: var(--soft);
}
ul {
  list-style: none;
  margin: 8px 0 0;
  padding: 0;
  max-height: 56vh;
  overflow: auto;
}
li {
  padding: 8px;
  cursor: pointer;
  border-top: 1px solid var(--hair-soft);
}
li[aria-selected='true'] {
  background: var(--act-wash);
  outline: 1px solid var(--act);
  outline-offset: -1px;
}
.where {
  padding-left: 56px;
  color: var(--soft);
}
li .small {
  display: inline-block;
  width: 52px;
}
@media (max-width: 760px) {
  .find {
    min-width: 0;
    flex: 1;
  }
}
</style>
