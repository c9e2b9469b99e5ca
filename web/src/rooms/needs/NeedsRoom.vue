<script setup lang="ts">
import { Segmented } from 'ant-design-vue'
import { computed, inject, ref, watch, type Ref } from 'vue'
import { api, take, type ChainLine } from '../../api/client'
import { useAct, useKinds, useNeeds, useProducts } from '../../api/queries'
import Modal from '../../parts/Modal.vue'
import Why from '../../parts/Why.vue'
import { amount, day, many } from '../../parts/words'
import ChainLink from './ChainLink.vue'

const ORDERS = ['Short first', 'By way of keeping', 'By kind'] as const
const needs = useNeeds()
const products = useProducts()
const kinds = useKinds()
const act = useAct()
const order = ref<(typeof ORDERS)[number]>('Short first')
const adding = ref(false)
const newAsked = inject<Ref<number>>('newAsked')
watch(newAsked!, () => (adding.value = true))

const lines = computed(() => {
  const all = [...(needs.data.value?.lines ?? [])]
  if (order.value === 'By kind') return all.sort((a, b) => a.crop_name.localeCompare(b.crop_name))
  if (order.value === 'By way of keeping')
    return all.sort((a, b) => a.how.localeCompare(b.how) || a.name.localeCompare(b.name))
  return all
})
const foods = computed(() => lines.value.filter((l) => l.kind === 'food'))
const picks = computed(() => lines.value.filter((l) => l.kind === 'pick'))
const short = computed(() => lines.value.filter((l) => l.short_plants).length)
const cautions = computed(() =>
  [...new Set(foods.value.filter((f) => /jar/.test(f.how)).map((f) => f.caution))].filter(Boolean),
)

const product = ref('')
const ownCrop = ref<string | undefined>()
const perWeek = ref(1)
const weeks = ref(40)
const changing = ref<ChainLine | null>(null)
const known = computed(() => products.data.value?.find((p) => p.name === product.value.trim()))
async function addFood() {
  const line = changing.value
  const name = line?.name ?? product.value.trim()
  const done = await act.run(`Wants ${perWeek.value} of ${name} a week`, () =>
    take(
      api.POST('/api/needs/foods', {
        body: {
          product: line ? line.name : name, name: line ? line.name : '', crop: line ? line.crop : (known.value ? null : ownCrop.value),
          per_week: perWeek.value, weeks: weeks.value, unit: '', gifts: 0, reserve_share: 0,
          target_id: line?.target_id ?? null, version: line?.version ?? null,
        },
      }),
    ),
  ) // prettier-ignore
  if (!done) return
  adding.value = false
  changing.value = null
  product.value = ''
}
function change(line: ChainLine) {
  changing.value = line
  perWeek.value = line.per_week
  weeks.value = line.weeks
  adding.value = true
}
const remove = (line: ChainLine) =>
  line.target_id
    ? act.run(`Took ${line.name} off the list`, () =>
        take(
          api.DELETE('/api/needs/foods/{target_id}', { params: { path: { target_id: line.target_id! } } }),
        ),
      )
    : act.run(`Took ${line.name} back`, () =>
        take(api.DELETE('/api/needs/picks/{pick_id}', { params: { path: { pick_id: line.pick_id! } } })),
      )
const part = (seeds: number, line: ChainLine) =>
  `${(100 * seeds) / Math.max(1, line.covered.reduce((s, c) => s + c.seeds, 0) + (line.short_seeds ?? 0))}%`
const seedsNeeded = (l: ChainLine) =>
  l.plants === 0
    ? '0'
    : l.short_plants && l.seeds === null
      ? 'test first'
      : amount(l.covered.reduce((s, c) => s + c.seeds, 0) + (l.short_seeds ?? 0))
</script>

<template>
  <section>
    <div class="lead">
      <h1>Needs</h1>
      <span v-if="needs.data.value && lines.length">
        <span class="soft">{{ needs.data.value.season }}. </span>
        <span v-if="short" class="act"
          >{{ short === 1 ? 'One is' : `${short} are` }} short of seed<template
            v-if="needs.data.value.order_by_s"
            >: order by {{ day(needs.data.value.order_by_s) }}</template
          >.</span
        >
        <span v-else class="soft">All is covered, {{ needs.data.value.confidence }}.</span>
      </span>
      <span class="spring" />
      <Segmented v-if="foods.length" v-model:value="order" :options="[...ORDERS]" aria-label="Order" />
      <button class="btn" type="button" @click="adding = true">Add a food <kbd>n</kbd></button>
    </div>
    <template v-if="needs.isPending.value"><div v-for="i in 8" :key="i" class="skeleton" /></template>
    <div v-else-if="needs.isError.value" class="card">{{ needs.error.value?.message }}</div>
    <template v-else>
      <div v-if="!lines.length" class="card empty">
        <h2>What do you want to eat next winter?</h2>
        <p>
          Name one thing and how much of it a week. It is worked back to jars, kilos, plants and seeds, and to
          the packets that cover it.
        </p>
        <button class="btn" type="button" @click="adding = true">Add the first food</button>
      </div>
      <div v-else class="chains" role="table" aria-label="Foods">
        <div class="chain head small soft" role="row">
          <span role="columnheader">food</span><span role="columnheader">wanted</span
          ><span role="columnheader">in pantry</span><span role="columnheader">to put up</span
          ><span role="columnheader">fresh produce</span><span role="columnheader">plants</span
          ><span role="columnheader">seeds, and what covers them</span
          ><span role="columnheader">still missing</span>
        </div>
        <div v-for="l in foods" :key="l.key" class="chain" role="row" :data-food="l.name">
          <div role="cell">
            <span class="name">{{ l.name }}</span>
            <div class="small soft">{{ l.how }}</div>
            <div class="small tools">
              <button class="btn link" type="button" @click="change(l)">change</button
              ><button class="btn link" type="button" @click="remove(l)">take off</button>
            </div>
          </div>
          <ChainLink
            :line="l"
            link="wanted"
            :value="l.chain?.wanted"
            :under="`${l.per_week} a week for ${l.weeks}`"
          />
          <ChainLink :line="l" link="pantry" :value="l.chain?.pantry" />
          <ChainLink :line="l" link="to_put_up" :value="l.chain?.to_put_up" />
          <ChainLink :line="l" link="fresh_kg" :value="l.chain?.fresh_kg" />
          <ChainLink :line="l" link="plants" :value="l.chain?.plants ?? undefined" />
          <div role="cell">
            <strong>{{ seedsNeeded(l) }}</strong>
            <span class="small">{{ l.covered.map((c) => `${c.code} ${amount(c.seeds)}`).join(' + ') }}</span>
            <div v-if="l.plants" class="bar" aria-hidden="true">
              <RouterLink
                v-for="c in l.covered"
                :key="c.lot_id"
                :to="`/stock/${c.lot_id}`"
                tabindex="-1"
                :style="{ width: part(c.seeds, l) }"
                :title="`${c.code} ${c.variety}: ${c.seeds} seeds`"
              />
            </div>
          </div>
          <div role="cell">
            <strong :class="{ act: l.short_plants }">{{ l.says }}</strong>&nbsp;<Why
              :lines="l.why.map((text) => ({ text }))"
            />
            <div class="small soft">
              {{ l.next_act
              }}<template v-if="l.order_by_s && l.short_plants"> by {{ day(l.order_by_s) }}</template>
            </div>
          </div>
        </div>
        <p class="small soft legend">
          <u class="own">underlined</u>: your own number · plain: the book · <u class="guess">dotted</u>: a
          guess · every number opens
        </p>
      </div>
      <template v-if="picks.length">
        <h2>Grown for their own sake</h2>
        <table class="plain stack">
          <tbody>
            <tr v-for="l in picks" :key="l.key">
              <td>
                <span class="name">{{ l.name }}</span> <span class="soft">{{ l.crop_name }}</span>
              </td>
              <td>{{ many(l.plants ?? 0, 'plant') }} for {{ l.how }}</td>
              <td>
                {{ seedsNeeded(l) }} {{ seedsNeeded(l) === '1' ? 'seed' : 'seeds' }}
                <span class="soft">{{ l.covered.map((c) => c.code).join(' + ') }}</span>
              </td>
              <td>
                <strong :class="{ act: l.short_plants }">{{ l.says }}</strong>
                <Why :lines="l.why.map((text) => ({ text }))" />
              </td>
              <td><button class="btn link small" type="button" @click="remove(l)">take off</button></td>
            </tr>
          </tbody>
        </table>
      </template>
      <p v-else-if="foods.length" class="soft small">
        Flowers, a trial, a green manure? Mark any lot “grow this year” on its page.
      </p>
      <template v-if="needs.data.value?.surplus.length && lines.length">
        <h2>To spare</h2>
        <p class="soft">
          More than foods, picks and their own line ask for: fit to give away before it fades.
          <template v-for="(s, i) in needs.data.value.surplus.slice(0, 14)" :key="s.lot_id"
            >{{ i ? ', ' : ''
            }}<RouterLink :to="`/stock/${s.lot_id}`">{{ s.code }} {{ s.variety }}</RouterLink> ({{
              amount(s.seeds)
            }})</template
          >.
        </p>
      </template>
      <template v-if="cautions.length">
        <h2>Putting up safely</h2>
        <p class="small soft">
          Quantities only: follow a currently tested recipe with altitude adjustment and your local
          food-safety authority; no processing times are given here.
        </p>
        <ul class="small soft">
          <li v-for="c in cautions" :key="c">{{ c }}</li>
        </ul>
      </template>
    </template>

    <Modal
      :open="adding"
      :title="changing ? changing.name : 'Add a food'"
      @close="((adding = false), (changing = null))"
    >
      <form class="form" @submit.prevent="addFood">
        <label v-if="!changing" class="field"
          >what
          <input v-model="product" list="products" placeholder="tomato sauce, sauerkraut, carrots" />
          <datalist id="products">
            <option v-for="p in products.data.value" :key="p.name" :value="p.name">{{ p.how }}</option>
          </datalist>
        </label>
        <label v-if="!changing && product && !known" class="field"
          >our own product, made of
          <select v-model="ownCrop">
            <option v-for="k in kinds.data.value" :key="k.key" :value="k.key">{{ k.name }}</option>
          </select>
        </label>
        <div class="row">
          <label class="field"
            >{{ known?.unit === 'kg' ? 'kilos' : 'jars, or units' }} a week<input
              v-model.number="perWeek"
              type="number"
              min="0"
              step="0.1"
          /></label>
          <label class="field"
            >weeks of the year<input v-model.number="weeks" type="number" min="1" max="53"
          /></label>
        </div>
        <button class="btn" type="submit" :disabled="(!changing && !product) || act.busy.value">
          {{ changing ? 'Save' : 'Add it' }}
        </button>
      </form>
    </Modal>
  </section>
</template>

<style scoped>
.spring {
  flex: 1;
}
.empty {
  max-width: 560px;
}
h2 {
  margin: 18px 0 6px;
}
.chain {
  display: grid;
  grid-template-columns: 1.25fr 0.9fr 0.75fr 0.8fr 1fr 1fr 1.9fr 1.35fr;
  gap: 10px;
  padding: 8px 0;
  border-top: 1px solid var(--hair-soft);
}
.head {
  border: 0;
  padding: 2px 0;
}
.chain > :first-child {
  position: relative;
}
.tools {
  visibility: hidden;
  position: absolute;
  left: -4px;
  top: 40px;
  background: var(--page);
  white-space: nowrap;
  z-index: 2;
}
.chain:hover .tools,
.chain:focus-within .tools {
  visibility: visible;
}
.bar {
  display: flex;
  gap: 2px;
  height: 11px;
  margin-top: 5px;
  background: repeating-linear-gradient(135deg, var(--act) 0 2px, var(--act-wash) 2px 5px);
  border: 1px solid var(--hair);
}
.bar a {
  background: var(--living);
  display: block;
}
.legend u {
  text-underline-offset: 3px;
}
.legend .guess {
  text-decoration-style: dotted;
}
.form {
  display: flex;
  flex-direction: column;
  gap: 12px;
}
.form > .btn {
  align-self: flex-end;
}
@media (max-width: 760px) {
  .head {
    display: none;
  }
  .chain {
    grid-template-columns: 1fr 1fr 1fr;
  }
  .chain > :first-child,
  .chain > :nth-last-child(-n + 2) {
    grid-column: 1 / 4;
  }
  .tools {
    visibility: visible;
    position: static;
  }
}
</style>
