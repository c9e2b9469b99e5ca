<script setup lang="ts">
import { computed, ref, watch } from 'vue'
import { api, take, type Schemas } from '../../api/client'
import { useAct, useShelves } from '../../api/queries'
import DayField from '../../parts/DayField.vue'
import Modal from '../../parts/Modal.vue'
import StartTest from '../trials/StartTest.vue'
import LotForms from './LotForms.vue'
import MendForm from './MendForm.vue'

export type Asking =
  | '' | 'test' | 'count' | 'move' | 'event' | 'pick' | 'sow' | 'edit' | 'split' | 'pour' | 'aside' | 'weigh' // prettier-ignore
const props = defineProps<{ page: Schemas['LotPage'] }>()
const asking = defineModel<Asking>('asking', { required: true })
const shelves = useShelves()
const act = useAct()
const line = computed(() => props.page.line)
const id = computed(() => line.value.lot_id)
const places = computed(() =>
  (shelves.data.value ?? []).flatMap((s) => (s.boxes.length ? s.boxes : [s.place])),
)
const amount = ref('')
const on = ref('')
watch(asking, () => (on.value = ''))
const booking = ref('counted')
const sure = ref('')
const node = ref<number | null>(null)
const event = ref('mould')
const note = ref('')
const plants = ref(12)
const purpose = ref('table')
const sowSeeds = ref(20)
const sowWhere = ref('outdoors')
const path = computed(() => ({ params: { path: { lot_id: id.value } } }))
const name = computed(() => `${line.value.code} ${line.value.variety}`)

async function finish(words: string, call: (anyway: boolean) => Promise<Schemas['Answer']>) {
  if (await act.runAsking(words, call)) asking.value = ''
}
const book = () =>
  finish(`${name.value}: ${amount.value} ${booking.value}`, () =>
    take(
      api.POST('/api/stock/lots/{lot_id}/quantity', {
        ...path.value,
        body: { kind: booking.value, amount: amount.value, sure: sure.value, on: on.value },
      }),
    ),
  )
const move = (to: number | null, words: string) =>
  to !== null &&
  finish(
    `Moved ${name.value} to ${words}`,
    (anyway) =>
    take(
      api.POST('/api/stock/lots/{lot_id}/move', {
        ...path.value, body: { node_id: to, section: section.value, slot: slot.value, on: on.value, anyway },
      }),
    ), // prettier-ignore
  )
const tell = () =>
  finish(`${name.value}: ${event.value}`, (anyway) =>
    take(
      api.POST('/api/stock/lots/{lot_id}/events', {
        ...path.value,
        body: { kind: event.value, note: note.value, on: on.value, anyway },
      }),
    ),
  )
const pick = () =>
  finish(`Grow ${plants.value} of ${name.value} this year`, (anyway) =>
    take(
      api.POST('/api/needs/picks', {
        body: { lot_id: id.value, plants: plants.value, purpose: purpose.value, note: '', anyway },
      }),
    ),
  )
const sow = () =>
  finish(`Sowed ${sowSeeds.value} of ${name.value}`, () =>
    take(
      api.POST('/api/sowings', {
        body: { lot_id: id.value, n: sowSeeds.value, setting: sowWhere.value, on: on.value },
      }),
    ),
  )
const edit = (body: Record<string, unknown>, words: string) =>
  finish(words, () =>
    take(
      api.PATCH('/api/stock/lots/{lot_id}', {
        ...path.value,
        body: { version: props.page.version, ...body } as never,
      }),
    ),
  )
const section = ref('')
const slot = ref('')
watch(
  line,
  (l) => {
    node.value = l.node_id ?? null
  },
  { immediate: true },
)
const state = (to: string, words: string) => edit({ state: to }, `${name.value}: ${words}`)
defineExpose({ move, state })
</script>

<template>
  <div>
    <LotForms v-model:asking="asking" :page="page" />
    <StartTest :open="asking === 'test'" :lot-id="id" :name="name" @close="asking = ''" />
    <Modal :open="asking === 'count'" :title="`How much of ${name}?`" @close="asking = ''">
      <form class="form" @submit.prevent="book">
        <label class="field"
          >what<select v-model="booking">
            <option value="counted">counted or weighed</option>
            <option value="given">given away</option>
            <option value="eaten">eaten</option>
            <option value="lost">lost</option>
            <option value="thrown">thrown out</option>
            <option value="found">found more</option>
          </select></label
        >
        <label class="field"
          >how much<input v-model="amount" placeholder="120, 3.5 g, about half left"
        /></label>
        <label class="field"
          >how sure<select v-model="sure">
            <option value="">as said</option>
            <option value="counted">counted</option>
            <option value="about">about</option>
            <option value="guess">a guess</option>
          </select></label
        >
        <DayField v-model="on" />
        <button class="btn" type="submit" :disabled="!amount.trim() || act.busy.value">Save</button>
      </form>
    </Modal>
    <Modal :open="asking === 'move'" :title="`Move ${name}`" @close="asking = ''">
      <form class="form" @submit.prevent="move(node, places.find((b) => b.node_id === node)?.path ?? '')">
        <label class="field"
          >to<select v-model="node">
            <option v-for="b in places" :key="b.node_id" :value="b.node_id">
              {{ b.path }} ({{ b.says }})
            </option>
          </select></label
        >
        <label class="field">section, if it has one<input v-model="section" /></label>
        <label class="field">slot<input v-model="slot" /></label>
        <DayField v-model="on" label="since when" />
        <button class="btn" type="submit" :disabled="node === null || act.busy.value">Move it</button>
      </form>
    </Modal>
    <Modal :open="asking === 'sow'" :title="`Sow ${name}`" @close="asking = ''">
      <form class="form" @submit.prevent="sow">
        <label class="field">seeds<input v-model.number="sowSeeds" type="number" min="1" /></label>
        <label class="field"
          >where<select v-model="sowWhere">
            <option>outdoors</option>
            <option>indoors</option>
          </select></label
        >
        <DayField v-model="on" label="sown on" />
        <button class="btn" type="submit" :disabled="!(sowSeeds >= 1) || act.busy.value">Sown</button>
      </form>
    </Modal>
    <Modal :open="asking === 'pick'" :title="`Grow ${name} this year`" @close="asking = ''">
      <form class="form" @submit.prevent="pick">
        <label class="field">plants<input v-model.number="plants" type="number" min="1" /></label>
        <label class="field"
          >for<select v-model="purpose">
            <option v-for="p in ['table', 'joy', 'bees', 'soil', 'gift', 'trial']" :key="p">{{ p }}</option>
          </select></label
        >
        <button class="btn" type="submit" :disabled="!(plants >= 1) || act.busy.value">
          Put it on the list
        </button>
      </form>
    </Modal>
    <Modal :open="asking === 'event'" :title="`What happened to ${name}?`" @close="asking = ''">
      <form class="form" @submit.prevent="tell">
        <label class="field"
          >what<select v-model="event">
            <option
              v-for="e in ['wet', 'mould', 'sprouted', 'insects', 'rodents', 'spilled', 'treated', 'note']"
              :key="e"
            >
              {{ e }}
            </option>
          </select></label
        >
        <label class="field">in your words<input v-model="note" /></label>
        <p class="small soft">
          Mouldy seed: no sniffing, discard outdoors. Mouse droppings: wet-clean, no sweeping.
        </p>
        <DayField v-model="on" />
        <button class="btn" type="submit" :disabled="act.busy.value">Note it</button>
      </form>
    </Modal>
    <Modal :open="asking === 'edit'" :title="`Put ${name} right`" :width="720" @close="asking = ''">
      <MendForm :page="page" @save="edit" />
      <div class="row">
        <button
          class="btn plain"
          type="button"
          @click="edit({ state: 'missing' }, `${name} could not be found`)"
        >
          Could not be found
        </button>
        <button class="btn plain" type="button" @click="edit({ state: 'gone' }, `Let ${name} go`)">
          Let it go
        </button>
      </div>
    </Modal>
  </div>
</template>

<style scoped>
.form {
  display: flex;
  gap: 10px;
  flex-direction: column;
  margin-bottom: 10px;
}
.form .btn {
  align-self: flex-end;
}
</style>
