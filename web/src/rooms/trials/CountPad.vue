<script setup lang="ts">
import { computed, reactive, ref } from 'vue'
import { api, take, type Running } from '../../api/client'
import { useAct } from '../../api/queries'
import DayField from '../../parts/DayField.vue'
import Modal from '../../parts/Modal.vue'
import { word } from '../../parts/words'

const props = defineProps<{ open: boolean; test: Running }>()
const emit = defineEmits<{ close: [] }>()
const act = useAct()
const ODD = ['abnormal', 'mouldy', 'hard', 'fresh', 'empty', 'gone'] as const
const up = ref(props.test.up)
const odd = reactive<Record<string, number>>({ ...props.test.odd })
const showOdd = ref(Object.values(props.test.odd).some((n) => n > 0))
const close = ref(props.test.day >= props.test.days)
const giveUp = ref('')
const on = ref('')
const oddSum = computed(() => ODD.reduce((sum, k) => sum + (odd[k] ?? 0), 0))
const waiting = computed(() => props.test.n - up.value - oddSum.value)

async function save() {
  const told = { count: { normal: up.value, ...odd }, close: close.value, flaws: '', on: on.value }
  const words = `${props.test.code}: ${up.value} of ${props.test.n} up${close.value ? ', closed' : ''}`
  const done = await act.runAsking(words, (anyway) =>
    take(
      api.POST('/api/tests/{trial_id}/counts', {
        params: { path: { trial_id: props.test.trial_id } },
        body: { ...told, anyway } as never,
      }),
    ),
  )
  if (done) emit('close')
}
async function drop() {
  const done = await act.run(`Gave up ${props.test.code}`, () =>
    take(
      api.POST('/api/tests/{trial_id}/drop', {
        params: { path: { trial_id: props.test.trial_id } },
        body: { why: giveUp.value },
      }),
    ),
  )
  if (done) emit('close')
}
</script>

<template>
  <Modal
    :open="open"
    :title="`Count ${test.code}: ${test.line.variety}, ${test.line.kind_name}`"
    @close="emit('close')"
  >
    <p class="soft">
      Day {{ Math.floor(test.day) }} of {{ test.days }}. All that came up so far, also those already taken
      off.
    </p>
    <div class="pads">
      <div class="pad up">
        <span class="n">{{ up }}</span> up
        <div class="row">
          <button class="btn quiet" type="button" aria-label="one fewer up" :disabled="up <= 0" @click="up--">
            −</button
          ><button class="btn" type="button" aria-label="one more up" :disabled="waiting <= 0" @click="up++">
            + 1
          </button>
        </div>
      </div>
      <div class="pad">
        <span class="n">{{ waiting }}</span> not yet
      </div>
    </div>
    <label class="field straight"
      >or type how many are up<input v-model.number="up" type="number" min="0" :max="test.n"
    /></label>
    <button class="btn link" type="button" :aria-expanded="showOdd" @click="showOdd = !showOdd">
      odd ones ({{ oddSum }})
    </button>
    <div v-if="showOdd" class="odd">
      <label v-for="k in ODD" :key="k" class="field"
        >{{ word('seed_in_test', k) }}<input v-model.number="odd[k]" type="number" min="0"
      /></label>
    </div>
    <p v-if="waiting < 0" class="warn">That is {{ -waiting }} more than the {{ test.n }} sown.</p>
    <label class="row"
      ><input v-model="close" type="checkbox" /> this was the last count: close the test</label
    >
    <div class="row end">
      <DayField v-model="on" label="counted" />
      <button class="btn" type="button" :disabled="waiting < 0 || act.busy.value" @click="save">
        Save count
      </button>
    </div>
    <details>
      <summary class="soft small">Something went wrong with it</summary>
      <div class="row">
        <input v-model="giveUp" class="plain" aria-label="what went wrong" placeholder="dried out" />
        <button class="btn plain" type="button" :disabled="!giveUp.trim()" @click="drop">
          Give it up: it counts for nothing
        </button>
      </div>
    </details>
  </Modal>
</template>

<style scoped>
.pads {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 10px;
}
.pad {
  border: 1px solid var(--hair);
  border-radius: 4px;
  padding: 12px;
  text-align: center;
}
.pad.up {
  background: var(--living-wash);
}
.pad .row {
  flex-wrap: nowrap;
  justify-content: center;
  margin-top: 6px;
}
.pad .btn {
  min-width: 64px;
  min-height: 48px;
}
.n {
  font: 700 34px var(--serif);
  display: block;
}
.odd {
  display: grid;
  grid-template-columns: repeat(3, 1fr);
  gap: 8px;
}
.straight {
  margin: 8px 0;
  max-width: 220px;
}
.warn {
  color: var(--warm);
}
.end {
  justify-content: flex-end;
}
</style>
