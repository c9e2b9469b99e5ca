<script setup lang="ts">
import { useDebounceFn } from '@vueuse/core'
import { computed, nextTick, onMounted, reactive, ref, watch } from 'vue'
import { api, take, type Schemas } from '../../api/client'
import { useAct, useUndo } from '../../api/queries'
import { usePageKeys, useSleepingKeys } from '../../parts/keys'
import { word, wordsOf } from '../../parts/words'
import { useWriting } from '../../parts/writing'
import KindQuestion from './KindQuestion.vue'
import PacketMore from './PacketMore.vue'
import SinceField from '../../parts/fields/SinceField.vue'
import SheetImport from './SheetImport.vue'
import { addPackets } from './acts'
import { blank, packet, REMEMBERED, type Line } from './entry'
import { SOURCES, SURE } from './forms/lots'
import RoomHead from '../../parts/RoomHead.vue'

/** A pile of packets, one line each, by keyboard: Enter keeps the line and opens the next. */
useSleepingKeys()
usePageKeys([
  ['Enter', 'keep the line'],
  ['Ctrl+D', 'copy the field from the line above'],
  ['Ctrl+Z', 'on an empty line: take the last one back'],
])
const act = useAct()
const { undo } = useUndo()
const { depthCm } = useWriting()
const line = reactive<Line>(blank())
const kept = ref<{ id: string; code: string; lotId: number; words: string; line: Line; gone: boolean }[]>([])
const seen = ref<Schemas['Understood'] | null>(null)
const more = ref(false)
const sheet = ref('')
const sheetName = ref('the paste')
const form = ref<HTMLFormElement | null>(null)
const question = ref<InstanceType<typeof KindQuestion> | null>(null)
// a word that no kind is called: one question, and never an unknown kind by Enter alone
const stranger = computed(() => {
  const word = line.kind.trim()
  return word.length > 1 && word !== '?' && seen.value?.item.kind === word && !seen.value.kind
})
const settled = ref('') // the word that was said to stay unknown
const empty = computed(() => !line.kind.trim() && !line.variety.trim() && !line.note.trim())
const understood = computed(() =>
  [seen.value?.date_words, seen.value?.quantity_words].filter(Boolean).join(', '),
)
const typed = computed(() => (seen.value?.type_choices.length ?? 0) > 1)
/** It is, or may be, something that is set and not sown: tubers, cloves, plants. */
const setAs = computed(() => line.form !== '' || (seen.value?.form ?? 'seed') !== 'seed')
const problems = computed(() => Object.entries(seen.value?.problems ?? {}))

async function look() {
  if (empty.value) {
    seen.value = null
    return
  }
  const asked = JSON.stringify(line)
  const body = { packets: [packet(line, depthCm)] }
  const [got] = await take(api.POST('/api/stock/sheet/lines', { body })).catch(() => [])
  if (got && asked === JSON.stringify(line)) seen.value = got
}
const lookSoon = useDebounceFn(look, 220)
watch(line, () => lookSoon(), { deep: true })
const first = () => form.value?.querySelector<HTMLInputElement>('input')
const inField = (name: string) => form.value?.querySelector<HTMLInputElement>(`[data-field="${name}"] input`)
onMounted(() => first()?.focus())

let keeping = false // Enter Enter keeps it once
async function keep() {
  if (empty.value || keeping) return
  keeping = true
  try {
    await keepLine()
  } finally {
    keeping = false
  }
}
async function keepLine() {
  await look()
  const wrong = problems.value[0]
  if (wrong) {
    const field = { quantity: 'quantity', date: 'date', year: 'date', kind: 'kind' }[wrong[0]] ?? ''
    inField(field)?.focus()
    if (!field) more.value = true
    return
  }
  if (stranger.value && settled.value !== line.kind.trim()) {
    question.value?.ask()
    return
  }
  const words = [seen.value?.kind_name || line.kind, line.variety].filter(Boolean).join(' ')
  const done = await act.runAsking(
    `Added ${words}`,
    (anyway) => addPackets([packet(line, depthCm)], anyway),
    true,
  )
  if (!done) return
  const [lotId] = done.result.lot_ids as number[]
  const [code] = done.result.codes as string[]
  const many = (done.result.too_many as string[] | undefined) ?? []
  const said = [seen.value?.date_words, seen.value?.quantity_words, ...many].filter(Boolean).join(', ')
  kept.value.unshift({
    id: done.act_id, code: code!, lotId: lotId!, words: `${words}${said ? `, ${said}` : ''}`, line: { ...line }, gone: false,
  }) // prettier-ignore
  const next = blank()
  for (const field of REMEMBERED) (next as Record<string, unknown>)[field] = line[field]
  Object.assign(line, next)
  seen.value = null
  more.value = false
  await nextTick()
  first()?.focus()
}
/** The question was answered: the line is of that kind, and is kept. */
async function answered(name: string) {
  line.kind = name
  await keep()
}
async function stays() {
  settled.value = line.kind.trim()
  await keep()
}
async function takeBack(i: number) {
  const k = kept.value[i]
  if (k && !k.gone && (await undo(k.id, k.words))) k.gone = true
}
/** Ctrl+D: the field takes what the line above had. */
function copyDown(e: KeyboardEvent) {
  const field = (e.target as HTMLElement).closest<HTMLElement>('[data-field]')
  const name = field?.dataset.field as keyof Line
  const above = kept.value.find((k) => !k.gone)?.line
  if (!above || !(name in above)) return
  e.preventDefault()
  ;(line as Record<string, unknown>)[name] = above[name]
}
function backByKey(e: KeyboardEvent) {
  if (!empty.value) return
  const i = kept.value.findIndex((k) => !k.gone)
  if (i < 0) return
  e.preventDefault()
  void takeBack(i)
}
function pasted(e: ClipboardEvent) {
  const text = e.clipboardData?.getData('text') ?? ''
  if (!text.includes('\n') && !text.includes('\t')) return
  e.preventDefault()
  sheetName.value = 'the paste'
  sheet.value = text
}
async function opened(file: File) {
  sheetName.value = file.name
  sheet.value = await file.text()
}
</script>

<template>
  <section @paste="pasted">
    <RoomHead title="Add seeds" back="Stock" to="/stock">
      <span class="soft"
        >One line a packet. A kind or a description is enough; leave out what it does not say.</span
      >
      <span class="spring" />
      <FilePick words="Open a spreadsheet" accept=".csv,.tsv,.txt,text/csv,text/plain" @file="opened" />
    </RoomHead>
    <SheetImport v-if="sheet" :text="sheet" :name="sheetName" @close="sheet = ''" />
    <form
      ref="form"
      class="typing card"
      @submit.prevent="keep"
      @keydown.ctrl.d="copyDown"
      @keydown.ctrl.z="backByKey"
    >
      <KindField v-model="line.kind" class="kind" placeholder="tom, kal, ?" />
      <TextField
        v-model="line.variety"
        label="name, or what it looks like"
        class="variety"
        name="variety"
        placeholder="Millrace; blue, low, by the steps"
      />
      <ChoiceField v-model="line.source" label="from" name="source" :options="SOURCES" />
      <HarvestField v-model="line.date" />
      <AmountField v-model="line.quantity" name="quantity" />
      <ChoiceField v-model="line.sure" label="how sure" name="sure" :options="SURE" />
      <PlaceField v-model="line.node_id" class="place" label="stands in" none="not said" />
      <div v-if="line.node_id !== null || typed || setAs" class="wide row asks">
        <SinceField
          v-if="line.node_id !== null"
          v-model="line.since"
          class="since"
          :placeholder="seen?.since_words || 'as it is taken'"
        />
        <ChoiceField
          v-if="typed"
          v-model="line.types"
          class="type"
          label="type"
          name="type"
          :none="seen?.types.join(', ') || 'not said'"
          :options="seen!.type_choices.map((t) => ({ value: t.key, label: t.name }))"
        />
        <ChoiceField
          v-if="setAs"
          v-model="line.form"
          class="type"
          label="there as"
          name="form"
          :none="word('form', seen?.form)"
          :options="wordsOf('form')"
        />
      </div>
      <PacketMore v-if="more" v-model="line" class="wide" />
      <div class="wide row under">
        <span class="understood" aria-live="polite">
          <template v-if="!empty">
            <strong v-if="seen?.kind_name">{{ seen.kind_name }}</strong>{{
              seen?.kind_name && understood ? ', ' : ''
            }}{{ understood }}
            <span v-if="seen?.types.length"> · {{ seen.types.join(', ') }}</span>
            <span v-if="seen?.since_words" class="soft"> · {{ seen.since_words }}</span>
            <span v-if="seen?.twin_words" class="act"> {{ seen.twin_words }}.</span>
            <span v-for="a in seen?.assumed ?? []" :key="a" class="soft small"> · {{ a }}</span>
            <span v-for="[field, why] in problems" :key="field" class="warm" role="alert">
              {{ field }}: {{ why }}.</span
            >
          </template>
          <span v-else class="soft small"
            ><kbd>Enter</kbd> keeps the line · <kbd>Ctrl</kbd>+<kbd>D</kbd> copies from the line above ·
            <kbd>Ctrl</kbd>+<kbd>Z</kbd> on an empty line takes the last one back · paste rows from a
            spreadsheet</span
          >
        </span>
        <span class="spring" />
        <AButton type="link" :aria-expanded="more" @click="more = !more">
          {{ more ? 'less' : 'what the packet says' }}
        </AButton>
        <AButton type="primary" html-type="submit" :disabled="empty || act.busy.value">Keep it</AButton>
      </div>
    </form>
    <KindQuestion
      v-if="stranger && settled !== line.kind.trim()"
      ref="question"
      :word="line.kind.trim()"
      :candidates="seen?.candidates ?? []"
      @is="answered"
      @unknown="stays"
    />
    <ol v-if="kept.length" class="kept" aria-label="Kept so far">
      <li v-for="(k, i) in kept" :key="k.id" :class="{ gone: k.gone }">
        <RouterLink :to="`/stock/${k.lotId}`" class="code">{{ k.code }}</RouterLink>
        <span>{{ k.words }}</span>
        <AButton v-if="!k.gone" type="link" size="small" @click="takeBack(i)">take back</AButton>
        <span v-else class="soft small">taken back</span>
      </li>
    </ol>
    <p v-if="kept.some((k) => !k.gone)" class="row">
      <RouterLink
        class="btn quiet"
        :to="{
          path: '/papers/labels',
          query: {
            lots: kept
              .filter((k) => !k.gone)
              .map((k) => k.lotId)
              .join(','),
          },
        }"
        >Print labels for these {{ kept.filter((k) => !k.gone).length }}</RouterLink
      >
    </p>
  </section>
</template>

<style scoped>
.spring {
  flex: 1;
}
.typing {
  display: grid;
  grid-template-columns: 1fr 1.6fr 0.8fr 1fr 1.1fr 0.75fr 1.3fr;
  gap: 8px;
  align-items: end;
}
.typing > * {
  min-width: 0;
}
.wide {
  grid-column: 1 / -1;
}
.asks > * {
  flex: 0 1 320px;
}
.under {
  min-height: 34px;
}
.understood {
  max-width: 760px;
}
.warm {
  color: var(--warm);
}
.kept {
  list-style: none;
  padding: 0;
  margin: 14px 0;
}
.kept li {
  display: grid;
  grid-template-columns: 70px 1fr auto;
  gap: 10px;
  border-top: 1px solid var(--hair-soft);
  padding: 5px 0;
}
.kept .gone {
  text-decoration: line-through;
  color: var(--soft);
}
@media (max-width: 760px) {
  .typing {
    grid-template-columns: 1fr 1fr;
  }
  .variety,
  .kind,
  .place {
    grid-column: 1 / -1;
  }
}
</style>
