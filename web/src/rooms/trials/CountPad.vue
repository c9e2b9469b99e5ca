<script setup lang="ts">
import { computed, reactive, ref } from 'vue'
import type { Running } from '../../api/client'
import { useAct } from '../../api/queries'
import ActForm from '../../parts/ActForm.vue'
import { word } from '../../parts/words'
import { countTest, dropTest } from './acts'
import { dayOf } from './days'
import SeedTray from './SeedTray.vue'
import { countOf, DRAWN_AT_MOST, laid, LETTERS, tapped, withCount } from './seeds'

/** Counting by tapping: what is up, and what is not yet; the rest behind "odd". */
const props = defineProps<{ test: Running }>()
const emit = defineEmits<{ close: [] }>()
const act = useAct()
const ODD = ['abnormal', 'mouldy', 'hard', 'fresh', 'empty', 'gone'] as const
const seeds = ref(laid(props.test.n, props.test.seeds, props.test.up, props.test.odd))
const drawn = props.test.n <= DRAWN_AT_MOST
/** What a tap on a seed says of it. */
const answer = ref<string>('u')
const oddAnswer = ref('a')
const ANSWERS = computed(() => [
  { value: 'u', label: 'up' },
  { value: 'w', label: 'not yet' },
  { value: oddAnswer.value, label: 'odd' },
])
const ODD_NAMES = { c: 'just cracked', ...Object.fromEntries(ODD.map((k) => [LETTERS[k]!, word('seed_in_test', k)])) } // prettier-ignore
const isOdd = computed(() => answer.value !== 'u' && answer.value !== 'w')
/** Typed more than there are seeds for. */
const over = ref(0)
const free = computed(() => countOf(seeds.value, 'w') + countOf(seeds.value, 'c'))
const number = (letter: string) =>
  computed({
    get: (): number | null => countOf(seeds.value, letter),
    set: (v) => {
      const wanted = v ?? 0
      over.value = Math.max(0, wanted - countOf(seeds.value, letter) - free.value)
      if (!over.value) seeds.value = withCount(seeds.value, letter, wanted)
    },
  })
const up = number('u')
const odd = reactive(Object.fromEntries(ODD.map((k) => [k, number(LETTERS[k]!)]))) as unknown as Record<string, number | null> // prettier-ignore
const showOdd = ref(Object.values(props.test.odd).some((n) => n > 0))
const close = ref(props.test.day >= props.test.days)
const giveUp = ref('')
const wrong = ref(false)
const on = ref('')
const oddSum = computed(() => ODD.reduce((sum, k) => sum + (odd[k] ?? 0), 0))
const seen = computed(() => up.value ?? 0)
const waiting = computed(() => props.test.n - seen.value - oddSum.value)
const cracked = computed(() => countOf(seeds.value, 'c'))
const words = () => `${props.test.code}: ${seen.value} of ${props.test.n} up${close.value ? ', closed' : ''}`
const call = (anyway: boolean) =>
  countTest(props.test.trial_id, {
    count: { seeds: seeds.value, normal: 0, abnormal: 0, mouldy: 0, hard: 0, fresh: 0, empty: 0, gone: 0 },
    close: close.value, flaws: '', on: on.value, anyway,
  }) // prettier-ignore
async function drop() {
  const done = await act.run(`Gave up ${props.test.code}`, () => dropTest(props.test.trial_id, giveUp.value))
  if (done) emit('close')
}
</script>

<template>
  <ActForm
    :title="`Count ${test.code}: ${test.line.variety}, ${test.line.kind_name}`"
    submit="Save count"
    :ready="!over"
    :words
    :call
    @close="emit('close')"
  >
    <p class="soft">{{ dayOf(test) }}. All that came up so far, also those already taken off.</p>
    <div class="pads">
      <div class="pad up">
        <span class="n">{{ seen }}</span> up
        <div class="row">
          <AButton aria-label="one fewer up" :disabled="seen <= 0" @click="up = seen - 1">−</AButton>
          <AButton
            type="primary"
            autofocus
            aria-label="one more up"
            :disabled="waiting <= 0"
            @click="up = seen + 1"
            >+ 1</AButton
          >
        </div>
      </div>
      <div class="pad">
        <span class="n">{{ waiting }}</span> not yet
        <span v-if="cracked" class="small soft">{{ cracked }} just cracked: on the way</span>
      </div>
    </div>
    <template v-if="drawn">
      <div class="row answers">
        <span class="soft">A tap says</span>
        <ASegmented v-model:value="answer" :options="ANSWERS" aria-label="what a tap says" />
        <ChoiceField
          v-if="isOdd"
          :model-value="oddAnswer"
          label="odd how"
          :options="ODD_NAMES"
          @update:model-value="(v: string) => (oddAnswer = answer = v)"
        />
      </div>
      <SeedTray :seeds :answer @set="(at) => (seeds = tapped(seeds, at, answer))" />
    </template>
    <NumberField
      v-model="up"
      class="straight"
      label="or type how many are up"
      name="up"
      whole
      :min="0"
      :max="test.n"
    />
    <AButton type="link" :aria-expanded="showOdd" @click="showOdd = !showOdd">
      odd ones ({{ oddSum }})
    </AButton>
    <div v-if="showOdd" class="odd">
      <NumberField
        v-for="k in ODD"
        :key="k"
        v-model="odd[k]!"
        :label="word('seed_in_test', k)"
        :name="k"
        whole
        :min="0"
      />
    </div>
    <p v-if="over" class="warm">That is {{ over }} more than the {{ test.n }} sown.</p>
    <ACheckbox v-model:checked="close">this was the last count: close the test</ACheckbox>
    <DayField v-model="on" label="counted" />
    <AButton v-if="!wrong" type="link" size="small" @click="wrong = true">
      Something went wrong with it
    </AButton>
    <div v-else class="row">
      <AInput v-model:value="giveUp" class="what" aria-label="what went wrong" placeholder="dried out" />
      <AButton :disabled="!giveUp.trim()" @click="drop">Give it up: it counts for nothing</AButton>
    </div>
  </ActForm>
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
.pad .row :deep(.ant-btn) {
  min-width: 64px;
  min-height: 48px;
}
.n {
  font: 700 34px var(--serif);
  display: block;
}
.answers {
  margin-top: 10px;
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
.what {
  width: 200px;
}
</style>
