<script setup lang="ts">
import { computed, reactive, ref } from 'vue'
import type { Schemas } from '../../api/client'
import { useAct, useRound } from '../../api/queries'
import { usePageKeys } from '../../parts/keys'
import { day, many, percent } from '../../parts/words'
import { useWriting } from '../../parts/writing'
import { orderRound, readRound } from './acts'
import RoomHead from '../../parts/RoomHead.vue'

/** The Sunday round: dials in walking order, Enter goes on, an odd value is asked about before saving. */
type Stop = Schemas['Stop']
usePageKeys([['Enter', 'the next field; on the last one: save the round']])
const round = useRound()
const units = useWriting()
const act = useAct()
const entries = reactive<Record<number, { t: string; h: string; sure: boolean }>>({})
const order = ref(false)
const list = ref<HTMLElement | null>(null)
const stops = computed(() => round.data.value ?? [])
const entry = (s: Stop) => (entries[s.node_id] ??= { t: '', h: '', sure: false })
/** What it stands in, with the dot that leads on. */
const around = (s: Stop) => s.path.split(' · ').slice(0, -1).concat('').join(' · ')
const number = units.numberOf
function celsius(text: string): number | null {
  const v = number(text)
  return v === null ? null : units.celsius(v)
}
/** What is odd about an entry, in words; empty when nothing is. */
function odd(s: Stop): string {
  const e = entries[s.node_id]
  if (!e) return ''
  const t = celsius(e.t)
  const h = number(e.h)
  if ((t !== null && Number.isNaN(t)) || (h !== null && Number.isNaN(h))) return 'not a number'
  const said = []
  if (t !== null && (t < s.low_c || t > s.high_c))
    said.push(`${units.temperature(s.low_c)} to ${units.temperature(s.high_c)} would be usual`)
  if (h !== null && (h / 100 < s.low_erh || h / 100 > s.high_erh))
    said.push(`${percent(s.low_erh)} to ${percent(s.high_erh)} would be usual`)
  return said.join('; ')
}
const filled = computed(() =>
  stops.value.filter((s) => entries[s.node_id]?.t.trim() || entries[s.node_id]?.h.trim()),
)
const doubtful = computed(() => filled.value.filter((s) => odd(s) && !entries[s.node_id]?.sure))
function next(e: KeyboardEvent) {
  const fields = [...(list.value?.querySelectorAll<HTMLInputElement>('input[inputmode]') ?? [])]
  const at = fields.indexOf(e.target as HTMLInputElement)
  if (at >= 0 && at + 1 < fields.length) {
    fields[at + 1]?.focus()
    fields[at + 1]?.scrollIntoView({ block: 'center' })
  } else void save()
}
async function save() {
  if (!filled.value.length || doubtful.value.length) return
  const read = filled.value.map((s) => ({
    node_id: s.node_id,
    temperature: number(entries[s.node_id]!.t),
    humidity_pct: number(entries[s.node_id]!.h),
    opened: false,
    note: '',
  }))
  const done = await act.run(`A round of ${read.length} dials`, () => readRound(read))
  if (done) for (const s of stops.value) delete entries[s.node_id]
}
async function shift(i: number, by: number) {
  const ids = stops.value.map((s) => s.node_id)
  const [moved] = ids.splice(i, 1)
  ids.splice(i + by, 0, moved!)
  await act.run('Changed the order of the round', () => orderRound(ids))
}
</script>

<template>
  <section class="round">
    <RoomHead title="The round">
      <span class="soft">Enter goes on to the next field; leave out what you do not read.</span>
      <AButton type="link" size="small" @click="order = !order">
        {{ order ? 'done ordering' : 'change the order' }}
      </AButton>
    </RoomHead>
    <RoomState :query="round" />
    <div v-if="round.data.value && !stops.length" class="card">
      No container holds seed yet, so there is nothing to read.
      <RouterLink to="/storage" class="btn">To Storage</RouterLink>
    </div>
    <form v-else-if="round.data.value" @submit.prevent="save">
      <ol ref="list" class="worked gone-through">
        <li v-for="(s, i) in stops" :key="s.node_id" :class="{ odd: odd(s) }">
          <div class="where">
            <RouterLink :to="`/storage/${s.node_id}`" class="name">{{ s.name }}</RouterLink>
            <span class="small soft"
              >{{ around(s) }}
              <template v-if="s.last_at_s"
                >{{ day(s.last_at_s) }}: {{ units.temperature(s.last_c) }},
                {{ s.last_erh === null || s.last_erh === undefined ? '–' : percent(s.last_erh) }}</template
              >
              <template v-else>never read</template>
              <template v-if="s.logged"> · a logger reads it</template>
              <template v-if="s.out"> · out of store</template>
            </span>
          </div>
          <div v-if="order" class="row">
            <AButton :disabled="i === 0" :aria-label="`${s.name} earlier`" @click="shift(i, -1)">
              up
            </AButton>
            <AButton :disabled="i === stops.length - 1" :aria-label="`${s.name} later`" @click="shift(i, 1)">
              down
            </AButton>
          </div>
          <div v-else class="fields">
            <AInput
              v-model:value="entry(s).t"
              inputmode="decimal"
              enterkeyhint="next"
              :placeholder="units.unit.value"
              :aria-label="`${s.name}, temperature, ${units.unit.value}`"
              @keydown.enter.prevent="next"
            />
            <AInput
              v-model:value="entry(s).h"
              inputmode="decimal"
              enterkeyhint="next"
              placeholder="%"
              :aria-label="`${s.name}, humidity, per cent`"
              @keydown.enter.prevent="next"
            />
          </div>
          <div v-if="odd(s)" class="ask small">
            Odd: {{ odd(s) }}.
            <ACheckbox v-if="odd(s) !== 'not a number'" v-model:checked="entry(s).sure">it is so</ACheckbox>
          </div>
        </li>
      </ol>
      <div class="sheet-foot">
        <span v-if="doubtful.length" role="alert" class="act small"
          >{{ doubtful.map((s) => s.name).join(', ') }}: look again, or say that it is so.</span
        >
        <AButton
          type="primary"
          html-type="submit"
          :disabled="!filled.length || !!doubtful.length || act.busy.value"
        >
          {{ filled.length ? `Save ${many(filled.length, 'dial')}` : 'Save the round' }}
        </AButton>
      </div>
    </form>
  </section>
</template>

<style scoped>
.round {
  max-width: 720px;
}
li.odd {
  background: var(--warm-wash);
}
.where {
  display: flex;
  flex-direction: column;
}
.fields {
  display: flex;
  gap: 8px;
}
.fields input {
  width: 92px;
  min-height: 44px;
  font-size: 17px;
}
.ask {
  grid-column: 1 / -1;
}
@media (max-width: 760px) {
  .fields input {
    width: 76px;
  }
  .foot .btn {
    flex: 1;
  }
}
</style>
