<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { computed, ref, watch } from 'vue'
import type { Schemas } from '../../api/client'
import { useAct } from '../../api/queries'
import type { Column } from '../../parts/DataTable.vue'
import FilePick from '../../parts/FilePick.vue'
import RoomHead from '../../parts/RoomHead.vue'
import { useSheet } from '../../parts/sheets'
import { amount, day, many, percent } from '../../parts/words'
import { useWriting } from '../../parts/writing'
import OfferForm from './OfferForm.vue'
import WishForm from './WishForm.vue'
import { bringList, dropOffer, dropWish, neverCame, orderCame, orderSeed, setBudget, theBasket } from './acts'

/** What is bought: gaps, offers, and the cheapest set of packets that closes them. */
const basket = useQuery({ queryKey: ['basket'], queryFn: theBasket })
const act = useAct()
const sheet = useSheet()
const data = computed(() => basket.data.value)
const { written } = useWriting()
const money = (x: number) => `${written(x.toFixed(2))} ${data.value?.currency ?? ''}`.trim()
const budget = ref<number | null>(null)
watch(
  () => data.value?.budget,
  (b) => (budget.value = b ?? null),
  { immediate: true },
)
type Offer = Schemas['OfferLine']
const shown = ref(false)
const offers = computed(() => {
  const all = data.value?.offers ?? []
  return shown.value ? all : all.filter((o) => o.chosen || !o.says)
})
const chosen = computed(() => (data.value?.offers ?? []).filter((o) => o.chosen))
const waiting = computed(() => (data.value?.orders ?? []).filter((o) => o.state === 'ordered'))
const settled = computed(() => (data.value?.orders ?? []).filter((o) => o.state !== 'ordered').slice(0, 8))
const node = ref<number | null>(null)
const GAPS: Column<Schemas['GapLine']>[] = [
  { key: 'name', title: 'for' },
  { key: 'plants', title: 'plants missing', small: 'plants missing', by: (g) => g.plants },
  { key: 'by', title: 'closed by', small: 'closed by' },
  { key: 'when', title: 'order by', small: 'order by', by: (g) => g.order_by_s },
  { key: 'do' },
]
const OFFERS: Column<Offer>[] = [
  { key: 'packs', title: 'packs', by: (o) => -o.chosen },
  { key: 'what', title: 'what', by: (o) => o.kind_name },
  { key: 'seller', title: 'seller', small: 'seller', by: (o) => o.seller },
  { key: 'seeds', title: 'seeds', small: 'seeds', by: (o) => o.pack_seeds },
  { key: 'price', title: 'price', small: 'price', by: (o) => o.price },
  { key: 'living', title: 'a hundred living seeds', small: 'a hundred living', by: (o) => o.per_living },
  { key: 'do' },
]
const order = () =>
  act.run(`Ordered ${many(chosen.value.length, 'kind')} of packets`, () =>
    orderSeed(Object.fromEntries(chosen.value.map((o) => [String(o.offer_id), o.chosen]))),
  )
const bring = (file: File) => act.run(`Brought in ${file.name}`, () => bringList(file))
const keepBudget = () =>
  act.run(budget.value === null ? 'No limit for seed' : `At most ${money(budget.value)} for seed`, () =>
    setBudget(budget.value),
  )
const came = (orders: Schemas['OrderLine'][]) =>
  act.run(orders.length === 1 ? `${orders[0]!.name} came` : `${orders.length} orders came`, () =>
    orderCame(
      orders.map((o) => o.order_id),
      node.value,
    ),
  )
const lost = (o: Schemas['OrderLine']) => act.run(`${o.name} never came`, () => neverCame(o.order_id))
</script>

<template>
  <section>
    <RoomHead title="The basket" back="Needs" to="/needs">
      <span v-if="data" class="soft">{{ data.says }}</span>
      <span class="spring" />
      <AButton @click="sheet = 'wish'">Wish for seed</AButton>
      <AButton @click="sheet = 'offer'">Type an offer</AButton>
      <FilePick words="Bring in a list" accept=".json,application/json" @file="bring" />
    </RoomHead>
    <RoomState :query="basket" />
    <template v-if="data">
      <div v-if="chosen.length" class="card total">
        <div>
          <strong>{{ money(data.price) }}</strong>
          <span class="soft">
            for
            {{
              many(
                chosen.reduce((n, o) => n + o.chosen, 0),
                'packet',
              )
            }}, {{ money(data.postage) }} of it postage<template v-if="data.spent"
              >; {{ money(data.spent) }} spent already</template
            ><template v-if="data.saved">; {{ money(data.saved) }} saved by what is in hand</template>.</span
          >
        </div>
        <a class="btn quiet" href="/api/needs/basket/order.txt" target="_blank" rel="noopener"
          >Write it out</a
        >
        <AButton type="primary" @click="order">Ordered: note it</AButton>
      </div>
      <form class="row budget" @submit.prevent="keepBudget">
        <NumberField
          v-model="budget"
          label="money for seed this year"
          name="money for seed in a year"
          :unit="data.currency || undefined"
          :min="0"
          help="empty: no limit"
        />
        <AButton html-type="submit" :disabled="budget === (data.budget ?? null)">Keep it</AButton>
      </form>
      <h2>What it is for</h2>
      <DataTable :rows="data.gaps" :columns="GAPS" by="key" label="what seed is bought for">
        <template #name="{ row }"
          ><span class="name">{{ row.name }}</span>
          <span v-if="row.wish_id" class="soft small"> wished for</span>
          <div v-if="row.asked" class="small soft">{{ row.asked }}</div>
          <div v-if="row.owned" class="small act">in hand: {{ row.owned }}</div></template
        >
        <template #plants="{ row }">{{ many(row.plants, 'plant') }}</template>
        <template #by="{ row }"
          ><template v-if="row.closed_by.length">{{ row.closed_by.join(' + ') }}</template
          ><span v-else :class="row.owned ? 'soft' : 'act'">{{ row.says }}</span></template
        >
        <template #when="{ row }">{{ row.order_by_s ? day(row.order_by_s) : '' }}</template>
        <template #do="{ row }"
          ><AButton
            v-if="row.wish_id"
            type="link"
            size="small"
            @click="act.run(`No longer wished for: ${row.name}`, () => dropWish(row.wish_id!))"
            >off the list</AButton
          ></template
        >
      </DataTable>
      <template v-if="waiting.length">
        <h2>On its way</h2>
        <div class="row arrivals">
          <PlaceField v-model="node" label="what comes goes to" none="not said yet" />
          <AButton type="primary" ghost @click="came(waiting)">All of it came</AButton>
        </div>
        <ul class="orders">
          <li v-for="o in waiting" :key="o.order_id">
            <span
              >{{ o.packs }} × {{ o.name }}
              <span class="soft">{{ o.seller }}, {{ money(o.price) }}</span></span
            >
            <span class="soft small">due about {{ day(o.expected_s) }}</span>
            <AButton size="small" @click="came([o])">It came</AButton>
            <AButton type="link" size="small" @click="lost(o)">never came</AButton>
          </li>
        </ul>
      </template>
      <template v-if="data.offers.length">
        <div class="row head">
          <h2>What is offered</h2>
          <span class="spring" />
          <ACheckbox v-model:checked="shown">also what nothing is short of</ACheckbox>
        </div>
        <DataTable
          :rows="offers"
          :columns="OFFERS"
          by="offer_id"
          label="offers"
          :row-class="(o) => (o.chosen ? 'chosen' : '')"
        >
          <template #packs="{ row }"
            ><strong v-if="row.chosen">{{ row.chosen }} ×</strong></template
          >
          <template #what="{ row }"
            ><span class="name">{{ row.variety || row.kind_name }}</span>
            <span class="soft">
              {{ row.variety ? row.kind_name : '' }}{{ row.hybrid ? ', hybrid' : '' }}</span
            >
            <div v-if="row.says" class="small soft">{{ row.says }}</div></template
          >
          <template #seller="{ row }"
            >{{ row.seller }} <span class="soft small">{{ Math.round(row.lead_days) }} days</span></template
          >
          <template #seeds="{ row }"
            >{{ amount(row.pack_seeds) }}{{ row.unit === 'seed' ? '' : ` ${row.unit}s`
            }}<span v-if="row.unit === 'seed'" class="soft small"
              >, about {{ percent(row.germinates)
              }}<template v-if="row.stated_germination">
                (stated {{ percent(row.stated_germination) }})</template
              ></span
            ></template
          >
          <template #price="{ row }">{{ money(row.price) }}</template>
          <template #living="{ row }">{{ money(100 * row.per_living) }}</template>
          <template #do="{ row }"
            ><AButton
              type="link"
              size="small"
              :aria-label="`take ${row.variety || row.kind_name} off`"
              @click="act.run(`Took ${row.variety || row.kind_name} off`, () => dropOffer(row.offer_id))"
              >off</AButton
            ></template
          >
        </DataTable>
        <p class="small soft">
          <template v-for="(s, i) in data.sellers" :key="s.seller_id"
            >{{ i ? '; ' : '' }}{{ s.name }}: postage {{ money(s.postage) }}, {{ s.record }}</template
          >.
        </p>
      </template>
      <template v-if="settled.length">
        <h2>Came, or never did</h2>
        <ul class="orders">
          <li v-for="o in settled" :key="o.order_id">
            <RouterLink v-if="o.lot_id" :to="`/stock/${o.lot_id}`">{{ o.packs }} × {{ o.name }}</RouterLink>
            <span v-else>{{ o.packs }} × {{ o.name }}, never came</span>
            <span class="soft small">{{ o.seller }}, {{ day(o.ordered_s) }}</span>
          </li>
        </ul>
      </template>
    </template>
    <WishForm v-if="sheet === 'wish'" @close="sheet = ''" />
    <OfferForm
      v-if="sheet === 'offer'"
      :sellers="data?.sellers ?? []"
      :currency="data?.currency ?? ''"
      @close="sheet = ''"
    />
  </section>
</template>

<style scoped>
h2 {
  margin: 16px 0 6px;
}
.total {
  display: flex;
  gap: 12px;
  align-items: center;
  justify-content: space-between;
  flex-wrap: wrap;
}
.total > div {
  flex: 1;
  min-width: 240px;
}
.budget,
.arrivals {
  align-items: end;
  gap: 12px;
  margin-top: 10px;
}
.budget :deep(.ant-form-item) {
  margin: 0;
  width: 240px;
}
.arrivals :deep(.ant-form-item) {
  margin: 0;
  min-width: 260px;
}
.head {
  align-items: baseline;
}
.orders {
  list-style: none;
  padding: 0;
}
.orders li {
  display: flex;
  flex-wrap: wrap;
  gap: 4px 14px;
  align-items: center;
  padding: 5px 0;
  border-top: 1px solid var(--hair-soft);
}
</style>
