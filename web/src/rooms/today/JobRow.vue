<script setup lang="ts">
import { computed, ref } from 'vue'
import { useRouter } from 'vue-router'
import type { Schemas } from '../../api/client'
import { useAct } from '../../api/queries'
import { useAxis } from '../../parts/axis'
import { walk } from '../../parts/keys'
import type { Rare } from '../../parts/More.vue'
import { dateWords, day, iso, word } from '../../parts/words'
import type { Named } from '../stock/forms/lots'
import TestManyForm from '../stock/forms/TestManyForm.vue'
import { setJobs } from './acts'
import JobSheet from './JobSheet.vue'
import OwnJobForm from './OwnJobForm.vue'
import { usePeople } from './people'

/** One row of the list: what to do, why, the one act it needs, and the rest behind a word and five keys. */
const props = defineProps<{ row: Schemas['Row'] }>()
const { nowS } = useAxis()
const people = usePeople()
const act = useAct()
const router = useRouter()
const sheet = ref<'' | 'move' | 'hand' | 'test' | 'own'>('')
const open = ref(false)
const jobs = computed(() => props.row.jobs)
const one = computed(() => (jobs.value.length === 1 ? jobs.value[0] : undefined))
const lots = computed<Named[]>(() =>
  jobs.value
    .filter((j) => j.seeds && j.kind === 'test' && j.subject.startsWith('lot:'))
    .map((j) => {
      const [code, ...rest] = j.short.split(' ')
      return { lot_id: Number(j.subject.slice(4)), code: code ?? '', variety: rest.join(' ') }
    }),
)
/** The thing itself, opened: the test's pad, the container's dial, the packet. */
const go = computed<{ words: string; to?: string }>(() => {
  const [what, id] = (jobs.value[0]?.subject ?? '').split(':')
  const kind = props.row.kind
  if (kind === 'sow') {
    const done = jobs.value.every((j) => j.pieces) ? 'set' : 'sown'
    return { words: one.value ? done[0]!.toUpperCase() + done.slice(1) : `All ${done}` }
  }
  if (lots.value.length) return { words: one.value ? 'Start the test' : 'Start these tests' }
  if (kind === 'count' && what === 'trial')
    return { words: 'Count', to: one.value ? `/tests?do=count:${id}` : '/tests' }
  if (kind === 'order' || kind === 'test') return { words: 'See the chain', to: '/needs' }
  if (kind === 'missed' || kind === 'less') return { words: 'Heard' }
  if (kind === 'ask') return { words: 'See the order', to: '/needs/basket' }
  if (kind === 'name') return { words: 'Take last year’s list over', to: '/needs?do=last' }
  if (kind === 'seed') return { words: 'Write the new packet down', to: '/stock/add' }
  if (kind === 'regrow') return { words: 'See the years', to: '/growing' }
  if (what === 'node')
    return { words: kind === 'read' ? 'Read the dial' : 'Look at it', to: `/storage/${id}` }
  if (what === 'lot') return { words: 'See the packet', to: `/stock/${id}` }
  return { words: 'Done' }
})
/** When: a span that is open, a day to come, or since when it is late. It is said once and does not slide. */
const DAY_S = 86400
const LATE = ['test', 'order', 'count', 'ask', 'seed', 'own', 'warm']
const MONTH_DAY = { day: 'numeric', month: 'short' } as const
type Timed = { due_s?: number | null; until_s?: number | null; kind: string; evening?: string }
function when(job: Timed) {
  const due = job.due_s
  const evening = job.evening ?? (job === props.row ? jobs.value[0]?.evening : '')
  if (due && evening && evening >= iso(nowS.value) && due > nowS.value)
    return `on ${dateWords(evening, MONTH_DAY)}, by ${day(due)} at the latest`
  if (!due || job.kind === 'missed') return ''
  if (job.until_s && job.until_s > due)
    return due > nowS.value ? `${day(due)} to ${day(job.until_s)}` : `until ${day(job.until_s)}`
  if (due > nowS.value + DAY_S) return `by ${day(due)}`
  if (due > nowS.value - DAY_S) return 'now'
  return LATE.includes(job.kind) ? `late since ${day(due)}` : `since ${day(due)}`
}
const main = () => {
  if (go.value.to) void router.push(go.value.to)
  else if (lots.value.length) sheet.value = 'test'
  else void set('done')
}
async function set(state: string) {
  const words = `${props.row.title}: ${word('job_state', state) || state}`
  await act.run(words, () => setJobs(jobs.value.map((j) => j.origin_key), state)) // prettier-ignore
}
const KEYS = { d: 'done', i: 'in_progress', m: 'move', h: 'hand', x: 'dropped' } as const
function rare(key: keyof typeof KEYS) {
  const what = KEYS[key]
  if (what === 'move' || what === 'hand') {
    if (what === 'move' || people.value.length) sheet.value = what
  } else void set(what)
}
const menu = computed<Rare[]>(() => [
  { words: 'done', key: 'd', act: () => rare('d') },
  { words: 'in progress', key: 'i', act: () => rare('i'), off: one.value?.state === 'in_progress' },
  { words: 'move to a later day', key: 'm', act: () => rare('m') },
  { words: 'hand to somebody', key: 'h', act: () => rare('h'), off: !people.value.length },
  { words: 'drop', key: 'x', act: () => rare('x') },
  ...(props.row.kind === 'own' ? [{ words: 'put right', act: () => void (sheet.value = 'own') }] : []),
])
const keys = (e: KeyboardEvent) =>
  walk(e, '.job', (key) => {
    if (key === 'Enter') main()
    else if (key in KEYS) rare(key as keyof typeof KEYS)
    else return false
    return true
  })
</script>

<template>
  <article
    class="job"
    :class="{ urgent: row.urgent }"
    :data-key="row.key"
    tabindex="0"
    :aria-label="row.title"
    @keydown="keys"
  >
    <div class="what">
      <span class="title">{{ row.title }}</span>
      <span v-if="when(row)" class="soft small" :title="row.due_s ? iso(row.due_s) : ''">
        · {{ when(row) }}</span
      >
      <span v-if="one?.every_weeks" class="soft small"> · every {{ one.every_weeks }} weeks</span>
      <ATag v-if="one?.state && one.state !== 'open'" class="state"
        >{{ word('job_state', one.state) || one.state
        }}<template v-if="one.person"> to {{ one.person }}</template></ATag
      >
      <div class="why small soft">
        {{ row.why }}
        <AButton v-if="!one" type="link" size="small" :aria-expanded="open" @click="open = !open">
          {{ open ? 'fold' : `show the ${jobs.length}` }}
        </AButton>
      </div>
      <ul v-if="open" class="small each">
        <li v-for="j in jobs" :key="j.origin_key">
          {{ j.title }}<span v-if="when(j)" class="soft"> · {{ when(j) }}</span>
          <span class="soft"> {{ j.why }}</span>
        </li>
      </ul>
    </div>
    <div class="row acts">
      <RouterLink v-if="go.to" :to="go.to" class="btn quiet">{{ go.words }}</RouterLink>
      <AButton v-else type="primary" ghost @click="main">{{ go.words }}</AButton>
      <More :acts="menu" :hears="`more for: ${row.title}`" />
    </div>
    <JobSheet v-if="sheet === 'move' || sheet === 'hand'" :what="sheet" :row @close="sheet = ''" />
    <TestManyForm v-if="sheet === 'test'" :lots @close="sheet = ''" />
    <OwnJobForm
      v-if="sheet === 'own'"
      :job="one"
      :due="one?.due_s ? iso(one.due_s) : ''"
      @close="sheet = ''"
    />
  </article>
</template>

<style scoped>
.job {
  border-top: 1px solid var(--hair-soft);
  padding: 8px 0;
  display: grid;
  grid-template-columns: minmax(0, 1fr) auto;
  gap: 4px 16px;
  align-items: center;
}
.urgent .title {
  font-weight: 700;
}
.state {
  margin-left: 6px;
}
.acts {
  flex-wrap: nowrap;
  gap: 6px;
}
.each {
  margin: 4px 0 0;
  padding-left: 18px;
}
@media (max-width: 760px) {
  .job {
    grid-template-columns: 1fr;
  }
}
</style>
