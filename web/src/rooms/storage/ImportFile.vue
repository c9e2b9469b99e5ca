<script setup lang="ts">
import { computed, ref, watch } from 'vue'
import { useQueryClient } from '@tanstack/vue-query'
import { api, Problem, sendFile, take, type Schemas } from '../../api/client'
import { lastAct } from '../../api/queries'
import Modal from '../../parts/Modal.vue'
import { amount, day } from '../../parts/words'

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
const busy = computed(() => file.value?.state === 'reading')

async function bring(e: Event) {
  const input = e.target as HTMLInputElement
  const chosen = input.files?.[0]
  input.value = ''
  if (!chosen) return
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
    problem.value = error instanceof Problem ? error : new Problem(0, 'That went wrong', String(error))
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
    problem.value = error instanceof Problem ? error : new Problem(0, 'That went wrong', String(error))
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
  <label class="btn link file small"
    >logger file<input type="file" accept=".csv,text/csv,text/plain" @change="bring"
  /></label>
  <Modal :open="open" :title="`A logger’s file for ${name}`" :width="680" @close="close">
    <p v-if="problem" role="alert" class="act">{{ problem.message }}</p>
    <template v-if="file">
      <p>
        <strong>{{ file.preview.file_name }}</strong>
        <span v-if="file.preview.known" class="soft"> · read as the last file of this kind here</span>
        <span v-if="file.preview.note" class="soft"> · {{ file.preview.note }}</span>
      </p>

      <template v-if="['waiting', 'failed', 'cancelled'].includes(file.state)">
        <div class="scroll">
          <table class="plain small">
            <thead>
              <tr>
                <th v-for="(h, i) in file.preview.header" :key="i">
                  {{ h }}
                  <span v-if="i === columns.time" class="act">time</span>
                  <span v-else-if="i === columns.temperature" class="act">temperature</span>
                  <span v-else-if="i === columns.humidity" class="act">humidity</span>
                </th>
              </tr>
            </thead>
            <tbody>
              <tr v-for="(r, i) in file.preview.rows.slice(0, 5)" :key="i">
                <td v-for="(c, j) in r" :key="j">{{ c }}</td>
              </tr>
            </tbody>
          </table>
        </div>
        <form class="form" @submit.prevent="takeIn">
          <div v-if="asks('columns')" class="row">
            <label v-for="k in ['time', 'temperature', 'humidity'] as const" :key="k" class="field"
              >{{ k }}
              <select v-model.number="columns[k]">
                <option v-if="k === 'humidity'" :value="-1">not in the file</option>
                <option v-for="(h, i) in file.preview.header" :key="i" :value="i">
                  {{ i + 1 }}: {{ h }}
                </option>
              </select>
            </label>
          </div>
          <div class="row">
            <label v-if="asks('unit') || !file.preview.layout" class="field"
              >the file does not say the unit
              <select v-model="answers.unit">
                <option value="C">°C</option>
                <option value="F">°F</option>
              </select>
            </label>
            <label v-if="asks('tz') || !file.preview.layout" class="field"
              >the time zone of its clock<input v-model="answers.tz" list="zones"
            /></label>
            <datalist id="zones">
              <option value="UTC" />
              <option :value="Intl.DateTimeFormat().resolvedOptions().timeZone" />
            </datalist>
            <label v-if="asks('day_order')" class="field"
              >03/04 is
              <select v-model="answers.month_first">
                <option :value="false">3 April</option>
                <option :value="true">4 March</option>
              </select>
            </label>
            <label v-if="asks('humidity_share')" class="field"
              >humidity 0.55 is
              <select v-model="answers.humidity_share">
                <option :value="true">55 %</option>
                <option :value="false">0.55 %</option>
              </select>
            </label>
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
            <label v-if="file.state === 'failed' && file.problems.length" class="small"
              ><input v-model="partial" type="checkbox" /> take in the good rows, leave these out</label
            >
            <button class="btn plain" type="button" @click="close">Leave it</button>
            <button class="btn" type="submit">
              {{ file.state === 'waiting' ? 'Take it in' : partial ? 'Take in the good rows' : 'Try again' }}
            </button>
          </div>
        </form>
      </template>

      <div v-else-if="busy" class="going">
        <progress :value="file.share" max="1" aria-label="How far" />
        <span>{{ Math.round(100 * file.share) }} %</span>
        <button class="btn plain" type="button" @click="stop">Stop</button>
      </div>

      <template v-else-if="file.state === 'done' && result">
        <p role="status">
          <strong>{{ amount(result.new_rows) }} readings taken in</strong>, {{ day(result.first_s, true) }} to
          {{ day(result.last_s, true)
          }}<span v-if="result.known_rows">; {{ amount(result.known_rows) }} were known already</span>.
        </p>
        <ul class="small">
          <li v-if="result.gaps">
            {{ result.gaps }} {{ result.gaps === 1 ? 'gap' : 'gaps' }} of over a day, the longest
            {{ result.longest_gap_days }} days: bridged with growing doubt.
          </li>
          <li v-if="result.spikes">{{ result.spikes }} lone jumps of over 8 °C: look at the chart.</li>
          <li v-if="result.ambiguous">
            {{ result.ambiguous }} times lie in an hour that the clock went through twice; taken in the file’s
            order.
          </li>
          <li v-if="result.blanks">{{ result.blanks }} rows held no measurement.</li>
          <li v-if="result.bad_rows">{{ result.bad_rows }} rows were left out.</li>
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
        <div class="row end"><button class="btn" type="button" @click="close">Good</button></div>
      </template>
    </template>
  </Modal>
</template>

<style scoped>
.file input {
  display: none;
}
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
