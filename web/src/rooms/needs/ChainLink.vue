<script setup lang="ts">
import { Popover } from 'ant-design-vue'
import { computed, ref, watch } from 'vue'
import { api, take, type ChainLine, type Schemas } from '../../api/client'
import { useAct } from '../../api/queries'
import { amount, range as span, word } from '../../parts/words'

const props = defineProps<{ line: ChainLine; link: string; value?: Schemas['Amount']; under?: string }>()
const act = useAct()
const open = ref(false)
const own = ref('')
watch(open, () => (own.value = props.value ? String(Math.round(10 * props.value.mid) / 10) : ''))
const range = computed(() =>
  props.value && props.value.high > props.value.low * 1.001
    ? `likely ${span(props.value.low, props.value.high)}`
    : '',
)
const mark = computed(() =>
  props.value?.origin === 'set' && props.link !== 'wanted'
    ? 'own'
    : props.value?.origin === 'guess'
      ? 'guess'
      : '',
)
// what is no number, or no amount, stays in the field
const typed = computed(() => (own.value.trim() === '' ? NaN : Number(own.value.replace(',', '.'))))
const sound = computed(() => Number.isFinite(typed.value) && typed.value >= 0)
async function save(value: number | null) {
  if (value !== null && !(Number.isFinite(value) && value >= 0)) return
  const id = props.line.target_id!
  const words = `${props.line.name}: ${word('chain_link', props.link)} ${value === null ? 'back to the book' : `set to ${value}`}`
  const done =
    props.link === 'pantry'
      ? await act.run(words, () =>
          take(
            api.POST('/api/needs/pantry', {
              body: { product: props.line.product, kind: 'counted', units: value ?? 0 },
            }),
          ),
        )
      : await act.run(words, () =>
          take(
            api.PUT('/api/needs/foods/{target_id}/links', {
              params: { path: { target_id: id } },
              body: { link: props.link, value, note: '' },
            }),
          ),
        )
  if (done) open.value = false
}
</script>

<template>
  <div class="cell" role="cell">
    <Popover v-model:open="open" trigger="click" placement="bottomLeft">
      <button
        class="link"
        type="button"
        :class="mark"
        :aria-label="`${word('chain_link', link)} of ${line.name}: ${value ? amount(value.mid) : 'not known'}`"
      >
        <strong>{{ value ? amount(value.mid) : '?' }}</strong>
        <span class="small">{{ value && link !== 'plants' ? value.unit : '' }}</span>
      </button>
      <template #content>
        <div class="panel">
          <p v-if="value">
            {{ word('origin', value.origin) }}<template v-if="value.note">: {{ value.note }}</template
            >. <template v-if="range">{{ range }} {{ value.unit }}.</template>
          </p>
          <p v-else>Nobody knows a yield for this kind: set the plants yourself.</p>
          <form class="row" @submit.prevent="save(typed)">
            <input
              v-model="own"
              class="plain"
              inputmode="decimal"
              :aria-label="`your own number for ${word('chain_link', link)}`"
            />
            <button class="btn" type="submit" :disabled="!sound || act.busy.value">
              {{ link === 'pantry' ? 'That is on the shelf' : 'Use my number' }}
            </button>
          </form>
          <button
            v-if="value?.origin === 'set' && link !== 'pantry'"
            class="btn link small"
            type="button"
            @click="save(null)"
          >
            back to the book
          </button>
        </div>
      </template>
    </Popover>
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
  max-width: 330px;
}
.panel input {
  width: 90px;
}
</style>
