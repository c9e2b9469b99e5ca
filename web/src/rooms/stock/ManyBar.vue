<script setup lang="ts">
import { computed } from 'vue'
import { useAct } from '../../api/queries'
import { usePlaces } from '../../parts/fields/places'
import { useSheet } from '../../parts/sheets'
import type { Rare } from '../../parts/More.vue'
import { pourInto, together } from './acts'
import EventForm from './forms/EventForm.vue'
import { called, ids, type Named } from './forms/lots'
import MeantForm from './forms/MeantForm.vue'
import MoveForm from './forms/MoveForm.vue'
import PickForm from './forms/PickForm.vue'
import SinceForm from './forms/SinceForm.vue'
import SowForm from './forms/SowForm.vue'
import TagForm from './forms/TagForm.vue'
import TestManyForm from './forms/TestManyForm.vue'

/** What can be done to one can be done to many: one act, one take-back. */
const props = defineProps<{ lots: Named[]; all?: number }>()
const emit = defineEmits<{ none: []; all: [] }>()
const act = useAct()
const sheet = useSheet('many')
const FORMS = {
  move: MoveForm, sow: SowForm, pick: PickForm, event: EventForm, tag: TagForm, meant: MeantForm, test: TestManyForm,
  since: SinceForm,
} as const // prettier-ignore
const form = computed(() => FORMS[sheet.value as keyof typeof FORMS])
const query = computed(() => ({ lots: ids(props.lots).join(',') }))
const codes = computed(() => props.lots.map((l) => l.code))
async function state(to: 'here' | 'fetched' | 'missing' | 'gone', words: string) {
  const body = { what: 'state' as const, lot_ids: ids(props.lots), state: to, anyway: false }
  if (await act.runAsking(`${called(props.lots)}: ${words}`, () => together(body))) emit('none')
}
async function join() {
  const [into, ...others] = props.lots
  if (!into) return
  const words = `Poured ${codes.value.slice(1).join(', ')} into ${into.code}`
  const done = await act.runAsking(words, (anyway) => pourInto(into.lot_id, ids(others), anyway))
  if (done) emit('none')
}
/** Housed at a touch; with a day or a slot it goes by the form. */
const { containers, path } = usePlaces()
const places = computed(() => containers.value.map((b) => ({ value: b.node_id, label: b.path })))
async function moveTo(node_id: number | null) {
  if (node_id === null) return
  const body = { what: 'move' as const, lot_ids: ids(props.lots), node_id, section: '', slot: '', on: '' }
  const words = `Moved ${called(props.lots)} to ${path(node_id)}`
  if (await act.runAsking(words, (anyway) => together({ ...body, anyway }))) emit('none')
}
const rare = computed<Rare[]>(() => [
  { words: 'Move, with its day or slot', act: () => (sheet.value = 'move') },
  { words: 'Since when there', act: () => (sheet.value = 'since') },
  { words: 'Sow', act: () => (sheet.value = 'sow') },
  { words: 'Start tests', act: () => (sheet.value = 'test') },
  { words: 'Fetched', act: () => state('fetched', 'fetched') },
  { words: 'Put back', act: () => state('here', 'back in their places') },
  { words: 'Meant for', act: () => (sheet.value = 'meant') },
  { words: 'Something happened', act: () => (sheet.value = 'event') },
  { words: `Pour into ${codes.value[0]}`, act: join, off: props.lots.length < 2 },
  { words: 'Could not be found', act: () => state('missing', 'could not be found') },
  { words: 'Let go', act: () => state('gone', 'let go') },
])
</script>

<template>
  <div v-if="lots.length" class="row picked" role="toolbar" aria-label="With the chosen packets">
    <strong>{{ lots.length }} chosen</strong>
    <span class="soft codes">{{ codes.slice(0, 6).join(', ') }}{{ codes.length > 6 ? ' …' : '' }}</span>
    <Choice
      class="to"
      :model-value="null"
      :options="places"
      none="move to …"
      hears="Move the chosen packets to"
      name="to"
      @update:model-value="moveTo"
    />
    <AButton @click="sheet = 'pick'">Grow this year</AButton>
    <AButton @click="sheet = 'tag'">Tag</AButton>
    <RouterLink class="btn plain" :to="{ path: '/papers/labels', query }">Labels</RouterLink>
    <RouterLink class="btn plain" :to="{ path: '/papers/parcels', query }">Give away</RouterLink>
    <More :acts="rare" words="more" hears="more to do with the chosen packets" />
    <span class="spring" />
    <AButton v-if="all && all > lots.length" type="link" @click="emit('all')">choose all {{ all }}</AButton>
    <AButton type="link" @click="emit('none')">choose none</AButton>
    <component :is="form" v-if="form" :lots @close="sheet = ''" @done="emit('none')" />
  </div>
</template>

<style scoped>
.picked {
  background: var(--act-wash);
  padding: 6px 10px;
  margin: 6px 0;
  position: sticky;
  top: 0;
  z-index: 6;
}
.to {
  width: 220px;
}
@media (max-width: 760px) {
  .codes {
    display: none;
  }
}
</style>
