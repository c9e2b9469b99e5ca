<script setup lang="ts">
import { computed, ref, watch } from 'vue'
import { api, take, type Schemas } from '../../api/client'
import { useAct, useRows, useShelves } from '../../api/queries'
import Modal from '../../parts/Modal.vue'
import { seedsWords } from '../../parts/words'
import type { Asking } from './LotActs.vue'

/** Splitting, pouring together, setting aside, weighing a hundred. */
const props = defineProps<{ page: Schemas['LotPage'] }>()
const asking = defineModel<Asking>('asking', { required: true })
const act = useAct()
const shelves = useShelves()
const order = ref('season')
const rows = useRows(order)
const line = computed(() => props.page.line)
const name = computed(() => `${line.value.code} ${line.value.variety}`)
const path = computed(() => ({ params: { path: { lot_id: line.value.lot_id } } }))
const places = computed(() =>
  (shelves.data.value ?? []).flatMap((s) => (s.boxes.length ? s.boxes : [s.place])),
)
const amount = ref('')
const node = ref<number | null>(null)
const use = ref('food')
const mass = ref('')
const count = ref(100)
const words = ref('')
const others = ref<number[]>([])
const mixing = ref<Schemas['Mixing'] | null>(null)
const alike = computed(() => {
  const wanted = words.value.toLowerCase().split(/\s+/).filter(Boolean)
  return (rows.data.value?.rows ?? [])
    .filter((r) => r.lot_id !== line.value.lot_id)
    .filter((r) =>
      wanted.length
        ? wanted.every((w) => `${r.code} ${r.variety} ${r.kind_name}`.toLowerCase().includes(w))
        : r.variety === line.value.variety && r.kind_name === line.value.kind_name,
    )
    .slice(0, 12)
})
watch(others, async (ids) => {
  mixing.value = ids.length
    ? await take(
        api.GET('/api/stock/lots/{lot_id}/mixing', {
          params: { ...path.value.params, query: { other_ids: ids } },
        }),
      ).catch(() => null)
    : null
})
watch(asking, () => {
  amount.value = mass.value = words.value = ''
  others.value = []
})
const shares = computed(() =>
  Object.entries(mixing.value?.shares ?? {})
    .map(([code, share]) => `${Math.round(100 * share)} % ${code}`)
    .join(', '),
)
async function finish(what: string, call: () => Promise<Schemas['Answer']>) {
  if (await act.run(what, call)) asking.value = ''
}
const split = () =>
  finish(`Split ${amount.value} off ${name.value}`, () =>
    take(
      api.POST('/api/stock/lots/{lot_id}/split', {
        ...path.value, body: { amount: amount.value, node_id: node.value, code: '' },
      }),
    ),
  ) // prettier-ignore
const pour = () =>
  finish(`Poured ${others.value.length} into ${name.value}`, () =>
    take(
      api.POST('/api/stock/lots/{lot_id}/merge', {
        ...path.value, body: { other_ids: others.value, anyway: true },
      }),
    ),
  ) // prettier-ignore
const setAside = () =>
  finish(`${name.value}: ${amount.value || 'nothing'} set aside for ${use.value}`, () =>
    take(
      api.POST('/api/stock/lots/{lot_id}/aside', {
        ...path.value, body: { intended_use: use.value, amount: amount.value },
      }),
    ),
  ) // prettier-ignore
const weigh = () =>
  finish(`Weighed ${count.value} of ${name.value}`, () =>
    take(
      api.POST('/api/stock/lots/{lot_id}/weigh', {
        ...path.value, body: { count: count.value, mass_g: Number(mass.value.replace(',', '.')) },
      }),
    ),
  ) // prettier-ignore
</script>

<template>
  <div>
    <Modal :open="asking === 'split'" :title="`Split ${name}`" @close="asking = ''">
      <form class="form" @submit.prevent="split">
        <p class="soft small">
          The new packet gets its own code; both keep the past and the tests they share.
        </p>
        <label class="field"
          >how much goes into it<input v-model="amount" placeholder="40, 2 g, half"
        /></label>
        <label class="field"
          >it stands in<select v-model="node">
            <option :value="null">the same place</option>
            <option v-for="b in places" :key="b.node_id" :value="b.node_id">{{ b.path }}</option>
          </select></label
        >
        <button class="btn" type="submit" :disabled="!amount.trim()">Split it</button>
      </form>
    </Modal>
    <Modal :open="asking === 'pour'" :title="`Pour others into ${name}`" @close="asking = ''">
      <form class="form" @submit.prevent="pour">
        <input
          v-model="words"
          class="plain"
          type="search"
          aria-label="Find lots to pour in"
          placeholder="name, kind, code"
        />
        <p v-if="!alike.length" class="soft">No other lot of this variety; search for another.</p>
        <label v-for="r in alike" :key="r.lot_id"
          ><input v-model="others" type="checkbox" :value="r.lot_id" /> <span class="code">{{ r.code }}</span>
          {{ r.variety }} <span class="soft small">{{ r.origin }}, {{ seedsWords(r) }}</span></label
        >
        <div v-if="mixing" role="status">
          <p v-for="w in mixing.warnings" :key="w" class="warm">{{ w }}</p>
          <p class="small soft">The bag would be {{ shares }}.</p>
        </div>
        <button class="btn" type="submit" :disabled="!others.length">
          {{ mixing?.warnings.length ? 'Pour together all the same' : 'Pour together' }}
        </button>
      </form>
    </Modal>
    <Modal :open="asking === 'aside'" :title="`Set some of ${name} aside`" @close="asking = ''">
      <form class="form" @submit.prevent="setAside">
        <label class="field"
          >for<select v-model="use">
            <option v-for="u in page.uses" :key="u">{{ u }}</option>
          </select></label
        >
        <label class="field"
          >how much (empty: nothing any more)<input v-model="amount" placeholder="200, 1 kg, half"
        /></label>
        <p v-if="!page.uses.includes('food')" class="small soft">
          Not for food or shoots: this seed is not safe to eat.
        </p>
        <button class="btn" type="submit">Set it aside</button>
      </form>
    </Modal>
    <Modal :open="asking === 'weigh'" :title="`Weigh seeds of ${name}`" @close="asking = ''">
      <form class="form" @submit.prevent="weigh">
        <p class="soft small">
          From then on its grams are turned into seeds by its own figure; amounts weighed before follow.
        </p>
        <label class="field">seeds on the scale<input v-model.number="count" type="number" min="10" /></label>
        <label class="field"
          >they weigh, g<input v-model="mass" inputmode="decimal" placeholder="28.5"
        /></label>
        <button class="btn" type="submit" :disabled="!mass.trim()">Save</button>
      </form>
    </Modal>
  </div>
</template>

<style scoped>
.form {
  display: flex;
  gap: 10px;
  flex-direction: column;
}
.form .btn {
  align-self: flex-end;
}
.warm {
  color: var(--warm);
}
</style>
