<script setup lang="ts">
import { computed, ref, watch } from 'vue'
import { useQueryClient } from '@tanstack/vue-query'
import { api, asProblem, sendFile, take, type Problem, type Schemas } from '../../api/client'
import { lastAct } from '../../api/queries'
import { amount, day, many } from '../../parts/words'
import { useWriting } from '../../parts/writing'

/** A logger's file: looked at first, asked about where it is silent, then taken in with a way to stop. */
const props = defineProps<{ nodeId: number; name: string }>()
const client = useQueryClient()
const file = ref<Schemas['ImportState'] | null>(null)
const problem = ref<Problem | null>(null)
const partial = ref(false)
const columns = ref({ time: 0, temperature: 1, humidity: -1 })
const answers = ref({ unit: 'C', tz: 'UTC', month_first: false, humidity_share: false })
const open = computed(() => file.value !== null || problem.value !== null)
const asks = (what: string) => file.value?.preview.asks.includes(what) ?? false
interface TakenIn {
  new_rows: number
  known_rows: number
  bad_rows: number
  conflicts: number
  first_s: number
  last_s: number
  gaps: number
  longest_gap_days: number
  spikes: number
  ambiguous: number
  blanks: number
  conflict_list: { line: number; reason: string }[]
}
const result = computed(() => file.value?.result as TakenIn | null | undefined)
const { warmer } = useWriting()
const UNITS = { C: '°C', F: '°F' }
const DAYS = [
  { value: false, label: '3 April' },
  { value: true, label: '4 March' },
]
const SHARES = [
  { value: true, label: '55 %' },
  { value: false, label: '0.55 %' },
]
const zones = ['UTC', Intl.DateTimeFormat().resolvedOptions().timeZone].map((value) => ({ value }))
const choices = (what: string) => [
  ...(what === 'humidity' ? [{ value: -1, label: 'not in the file' }] : []),
  ...(file.value?.preview.header ?? []).map((h, i) => ({ value: i, label: `${i + 1}: ${h}` })),
]
const lines = computed(() =>
  (file.value?.preview.rows ?? []).slice(0, 5).map((cells, line) => ({ cells, line })),
)
const heads = computed(() =>
  (file.value?.preview.header ?? []).map((h, i) => ({ key: String(i), title: h || ' ' })),
)
const isA = (i: number) =>
  (['time', 'temperature', 'humidity'] as const).find((k) => columns.value[k] === i) ?? ''
const busy = computed(() => file.value?.state === 'reading')

async function bring(chosen: File) {
  try {
    const made = await sendFile<Schemas['ImportState']>(`/api/storage/nodes/${props.nodeId}/imports`, chosen)
    file.value = made
    partial.value = false
    const layout = made.preview.layout as Record<string, unknown> | null
    if (layout) {
      columns.value = {
        time: Number(layout.time),
        temperature: Number(layout.temperature),
        humidity: Number(layout.humidity),
      }
      answers.value = {
        unit: String(layout.unit),
        tz: String(layout.tz),
        month_first: Boolean(layout.month_first),
        humidity_share: Boolean(layout.humidity_share),
      }
    }
    // nothing left open: it is taken in at once, the summary shows what happened
    if (made.preview.asks.length === 0) await takeIn()
  } catch (error) {
    problem.value = asProblem(error)
  }
}
async function takeIn() {
  if (!file.value) return
  problem.value = null
  try {
    const said = asks('columns') ? { ...columns.value, ...answers.value } : answers.value
    file.value = await take(
      api.POST('/api/storage/imports/{token}/take', {
        params: { path: { token: file.value.token } },
        body: { answers: said, partial: partial.value },
      }),
    )
  } catch (error) {
    problem.value = asProblem(error)
  }
}
watch(file, async (now) => {
  if (now?.state === 'done') {
    lastAct.value = { id: now.act_id ?? '', words: `Took in ${now.preview.file_name}`, undone: false }
    await client.invalidateQueries()
  }
  if (now?.state !== 'reading') return
  await new Promise((wait) => setTimeout(wait, 250))
  if (file.value?.token === now.token)
    file.value = await take(
      api.GET('/api/storage/imports/{token}', { params: { path: { token: now.token } } }),
    )
})
async function stop() {
  if (!file.value) return
  await take(api.DELETE('/api/storage/imports/{token}', { params: { path: { token: file.value.token } } }))
}
async function close() {
  if (file.value && ['waiting', 'failed', 'reading'].includes(file.value.state)) await stop()
  file.value = null
  problem.value = null
}
</script>

<template>
  <FilePick words="logger file" link accept=".csv,text/csv,text/plain" @file="bring" />
  <Sheet :open :title="`A logger’s file for ${name}`" :width="680" @close="close">
    <p v-if="problem" role="alert" class="act">{{ problem.message }}</p>
    <template v-if="file">
      <p>
        <strong>{{ file.preview.file_name }}</strong>
        <span v-if="file.preview.known" class="soft"> · read as the last file of this kind here</span>
        <span v-if="file.preview.note" class="soft"> · {{ file.preview.note }}</span>
      </p>

      <template v-if="['waiting', 'failed', 'cancelled'].includes(file.state)">
        <div class="scroll">
          <DataTable :rows="lines" :columns="heads" by="line">
            <template #head="{ column }">
              {{ file.preview.header[Number(column)] }}
              <span class="act">{{ isA(Number(column)) }}</span>
            </template>
            <template v-for="(_, i) in file.preview.header" :key="i" #[String(i)]="{ row }">{{
              row.cells[i]
            }}</template>
          </DataTable>
        </div>
        <AForm class="act-form" layout="vertical" @submit.prevent="takeIn">
          <div v-if="asks('columns')" class="row">
            <ChoiceField
              v-for="k in ['time', 'temperature', 'humidity'] as const"
              :key="k"
              v-model="columns[k]"
              :label="k"
              :options="choices(k)"
            />
          </div>
          <div class="row">
            <ChoiceField
              v-if="asks('unit') || !file.preview.layout"
              v-model="answers.unit"
              label="the file does not say the unit"
              :options="UNITS"
            />
            <Field
              v-if="asks('tz') || !file.preview.layout"
              v-slot="{ id }"
              label="the time zone of its clock"
            >
              <AAutoComplete :id v-model:value="answers.tz" class="zone" :options="zones" />
            </Field>
            <ChoiceField
              v-if="asks('day_order')"
              v-model="answers.month_first"
              label="03/04 is"
              :options="DAYS"
            />
            <ChoiceField
              v-if="asks('humidity_share')"
              v-model="answers.humidity_share"
              label="humidity 0.55 is"
              :options="SHARES"
            />
          </div>
          <template v-if="file.state === 'failed'">
            <p role="alert" class="act">{{ file.message }}</p>
            <ul v-if="file.problems.length" class="small bad">
              <li v-for="(p, i) in file.problems.slice(0, 12)" :key="i">
                line {{ p.line }}, {{ p.field }}: {{ p.reason }}
              </li>
              <li v-if="file.problems.length > 12">and {{ file.problems.length - 12 }} more</li>
            </ul>
          </template>
          <p v-if="file.state === 'cancelled'" role="status">
            {{ file.message || 'Stopped: nothing was taken in.' }}
          </p>
          <div class="row end">
            <ACheckbox v-if="file.state === 'failed' && file.problems.length" v-model:checked="partial"
              >take in the good rows, leave these out</ACheckbox
            >
            <AButton @click="close">Leave it</AButton>
            <AButton type="primary" html-type="submit">
              {{ file.state === 'waiting' ? 'Take it in' : partial ? 'Take in the good rows' : 'Try again' }}
            </AButton>
          </div>
        </AForm>
      </template>

      <div v-else-if="busy" class="going">
        <AProgress
          :percent="Math.round(100 * file.share)"
          :format="(n?: number) => `${n} %`"
          aria-label="How far"
        />
        <AButton @click="stop">Stop</AButton>
      </div>

      <template v-else-if="file.state === 'done' && result">
        <p role="status">
          <strong>{{ amount(result.new_rows) }} readings taken in</strong>, {{ day(result.first_s, true) }} to
          {{ day(result.last_s, true)
          }}<span v-if="result.known_rows">; {{ amount(result.known_rows) }} were known already</span>.
        </p>
        <ul class="small">
          <li v-if="result.gaps">
            {{ many(result.gaps, 'gap') }} of over a day, the longest {{ result.longest_gap_days }} days:
            bridged with growing doubt.
          </li>
          <li v-if="result.spikes">
            {{ result.spikes }} lone jumps of over {{ warmer(8) }}: look at the chart.
          </li>
          <li v-if="result.ambiguous">
            {{ result.ambiguous }} times lie in an hour that the clock went through twice; taken in the file’s
            order.
          </li>
          <li v-if="result.blanks">{{ result.blanks }} rows held no measurement.</li>
          <li v-if="result.bad_rows">{{ many(result.bad_rows, 'row') }} left out.</li>
          <li v-if="result.conflicts">
            {{ result.conflicts }} times already held other values; those stay.
            <details>
              <summary>which</summary>
              <div v-for="(c, i) in result.conflict_list.slice(0, 30)" :key="i">
                line {{ c.line }}: {{ c.reason }}
              </div>
            </details>
          </li>
        </ul>
        <div class="row end"><AButton type="primary" @click="close">Good</AButton></div>
      </template>
    </template>
  </Sheet>
</template>

<style scoped>
.scroll {
  overflow-x: auto;
}
.form {
  display: flex;
  flex-direction: column;
  gap: 10px;
  margin-top: 10px;
}
.end {
  justify-content: flex-end;
}
.going {
  display: flex;
  gap: 12px;
  align-items: center;
}
progress {
  flex: 1;
  accent-color: var(--act);
}
.bad {
  max-height: 180px;
  overflow: auto;
}
</style>
