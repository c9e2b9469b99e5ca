<script setup lang="ts">
import { computed, ref, watch } from 'vue'
import type { ChainLine, Schemas } from '../../api/client'
import { useAct } from '../../api/queries'
import { amount, range as span, word } from '../../parts/words'
import { useWriting } from '../../parts/writing'
import { asAsked, countPantry, overrule, setFood } from './acts'
import HarvestPart from './HarvestPart.vue'

const props = defineProps<{ line: ChainLine; link: string; value?: Schemas['Amount']; under?: string }>()
const act = useAct()
const open = ref(false)
const own = ref<number | null>(null)
const note = ref('')
const { productUnit, productShown, productTyped } = useWriting()
/** The amount as the household writes it: kilos or pounds, litres or quarts. */
const shown = computed(() => {
  const v = props.value
  if (!v) return undefined
  const [low, mid, high] = [v.low, v.mid, v.high].map((n) => productShown(n, v.unit)) as [
    number,
    number,
    number,
  ]
  return { low, mid, high, unit: props.link === 'plants' ? '' : productUnit(v.unit) }
})
watch(open, () => {
  own.value = shown.value ? Math.round(10 * shown.value.mid) / 10 : null
  note.value = props.line.notes[props.link] ?? ''
})
/** Plan for as many plants as do in such a share of the years. */
const plan = (share: number) =>
  act.run(`${props.line.name}: plants enough in ${10 * share} years of ten`, () =>
    setFood({ ...asAsked(props.line), sure: share }),
  )
const range = computed(() =>
  shown.value && shown.value.high > shown.value.low * 1.001
    ? `likely ${span(shown.value.low, shown.value.high)}`
    : '',
)
const mark = computed(() =>
  props.value?.origin === 'set' && props.link !== 'wanted'
    ? 'own'
    : props.value?.origin === 'guess'
      ? 'guess'
      : '',
)
async function save(typed: number | null) {
  const value = typed === null ? null : productTyped(typed, props.value?.unit ?? '')
  const said = typed === null ? 'back to the book' : `set to ${typed}`
  const words = `${props.line.name}: ${word('chain_link', props.link)} ${said}`
  const done = await act.run(words, () =>
    props.link === 'pantry'
      ? countPantry(props.line.product, value ?? 0)
      : overrule(props.line.target_id!, props.link, value, typed === null ? '' : note.value),
  )
  if (done) open.value = false
}
</script>

<template>
  <div class="cell" role="cell">
    <APopover v-model:open="open" trigger="click" placement="bottomLeft">
      <button
        class="link"
        type="button"
        :class="mark"
        :aria-label="`${word('chain_link', link)} of ${line.name}: ${shown ? `${amount(shown.mid)} ${shown.unit}`.trim() : 'not known, ?'}`"
      >
        <strong>{{ shown ? amount(shown.mid) : '?' }}</strong>
        <span class="small">{{ shown?.unit }}</span>
      </button>
      <template #content>
        <div class="panel">
          <p v-if="value">
            {{ word('origin', value.origin) }}<template v-if="value.note">: {{ value.note }}</template
            >. <template v-if="range">{{ `${range} ${shown?.unit ?? ''}`.trim() }}.</template>
          </p>
          <p v-else>Nobody knows a yield for this kind: set the plants yourself.</p>
          <form class="row" @submit.prevent="own !== null && save(own)">
            <Num
              v-model="own"
              :min="0"
              :unit="shown?.unit || undefined"
              :aria-label="`your own number for ${word('chain_link', link)}`"
            />
            <AInput
              v-if="link !== 'pantry'"
              v-model:value="note"
              placeholder="why"
              :aria-label="`why, for ${word('chain_link', link)}`"
            />
            <AButton type="primary" html-type="submit" :disabled="own === null || act.busy.value">
              {{ link === 'pantry' ? 'That is on the shelf' : 'Use my number' }}
            </AButton>
          </form>
          <AButton
            v-if="value?.origin === 'set' && link !== 'pantry'"
            type="link"
            size="small"
            @click="save(null)"
          >
            back to the book
          </AButton>
          <template v-if="link === 'plants' && line.enough.length">
            <p class="small years">Yields swing: so many plants are enough</p>
            <ARadioGroup
              :value="line.sure"
              size="small"
              :aria-label="`in how many years ${line.name} is enough`"
              @change="(e: { target: { value?: unknown } }) => plan(Number(e.target.value))"
            >
              <ARadioButton v-for="e in line.enough" :key="e.share" :value="e.share">
                {{ amount(e.plants) }} in {{ 10 * e.share }} of 10 years
              </ARadioButton>
            </ARadioGroup>
          </template>
          <HarvestPart v-if="link === 'plants' && open && line.eaten_by !== 'shoots'" :line />
        </div>
      </template>
    </APopover>
    <div class="small soft">{{ under ?? range }}</div>
  </div>
</template>

<style scoped>
.cell {
  position: relative;
}
.cell::before {
  content: '›';
  position: absolute;
  left: -9px;
  top: 0;
  color: var(--soft);
}
.link {
  font: inherit;
  color: inherit;
  border: 0;
  background: none;
  padding: 0;
  cursor: pointer;
  text-align: left;
}
.link.own strong {
  border-bottom: 1.5px solid var(--living);
}
.link.guess strong {
  border-bottom: 1.5px dotted var(--warm);
}
.link:hover strong {
  color: var(--act);
}
.panel {
  max-width: 360px;
}
.years {
  margin: 10px 0 4px;
}
</style>
