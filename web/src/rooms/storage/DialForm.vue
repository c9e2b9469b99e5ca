<script setup lang="ts">
import { ref } from 'vue'
import { api, take } from '../../api/client'
import { useAct } from '../../api/queries'
import { useUnits } from '../../parts/words'

/** Log one dial: two fields and Enter; the rest behind one word. */
const props = defineProps<{ nodeId: number; name: string }>()
const units = useUnits()
const act = useAct()
const temperature = ref('')
const humidity = ref('')
const low = ref('')
const high = ref('')
const readOn = ref('')
const note = ref('')
const opened = ref(false)
const more = ref(false)
const dial = ref<HTMLInputElement | null>(null)
defineExpose({ focus: () => dial.value?.focus() })

const number = (text: string) => (text.trim() === '' ? null : Number(text.replace(',', '.')))
async function log() {
  const said = [
    temperature.value && `${temperature.value} ${units.unit.value}`,
    humidity.value && `${humidity.value} %`,
  ]
    .filter(Boolean)
    .join(', ')
  const done = await act.run(`Read ${props.name}: ${said}`, () =>
    take(
      api.POST('/api/storage/nodes/{node_id}/readings', {
        params: { path: { node_id: props.nodeId } },
        body: {
          temperature: number(temperature.value),
          humidity_pct: number(humidity.value),
          t_min: number(low.value),
          t_max: number(high.value),
          at_s: readOn.value ? Date.parse(`${readOn.value}T12:00`) / 1000 : null,
          opened: opened.value,
          note: note.value,
        },
      }),
    ),
  )
  if (!done) return
  temperature.value = humidity.value = low.value = high.value = readOn.value = note.value = ''
  opened.value = false
}
</script>

<template>
  <form class="log" @submit.prevent="log">
    <div class="row">
      <label class="field"
        >{{ units.unit.value
        }}<input
          ref="dial"
          v-model="temperature"
          inputmode="decimal"
          :aria-label="`temperature, ${units.unit.value}`"
      /></label>
      <label class="field"
        >% humidity<input v-model="humidity" inputmode="decimal" aria-label="humidity, per cent"
      /></label>
      <button
        class="btn"
        type="submit"
        :disabled="act.busy.value || (!temperature.trim() && !humidity.trim())"
      >
        Log the dial
      </button>
    </div>
    <div v-if="more" class="row">
      <label class="field">lowest since reset<input v-model="low" inputmode="decimal" /></label>
      <label class="field">highest since reset<input v-model="high" inputmode="decimal" /></label>
      <label class="field">read on<input v-model="readOn" type="date" /></label>
      <label class="field note">note<input v-model="note" placeholder="smells musty" /></label>
      <label class="small"><input v-model="opened" type="checkbox" /> opened to read it</label>
    </div>
    <button v-if="!more" class="btn link small" type="button" @click="more = true">min, max, day</button>
  </form>
</template>

<style scoped>
.log input:not([type='checkbox']) {
  width: 92px;
}
.log input[type='date'] {
  width: 132px;
}
.log .note input {
  width: 210px;
}
.row {
  align-items: flex-end;
}
</style>
