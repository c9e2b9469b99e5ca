<script setup lang="ts">
import { computed, inject, watch, type Ref } from 'vue'
import type { ChainLine } from '../../api/client'
import { useAct, useNeeds } from '../../api/queries'
import { useAddress } from '../../parts/address'
import { useSheet } from '../../parts/sheets'
import { amount, day, many } from '../../parts/words'
import { useWriting } from '../../parts/writing'
import { takeOff } from './acts'
import ChainLink from './ChainLink.vue'
import FoodForm from './FoodForm.vue'
import LastYearForm from './LastYearForm.vue'
import RoomCard from './RoomCard.vue'
import RoomHead from '../../parts/RoomHead.vue'

const ORDERS = ['Short first', 'By way of keeping', 'By kind'] as const
const needs = useNeeds()
const act = useAct()
const order = useAddress('by', 'Short first')
/** `food`: a new one; `food:12`: that one is changed. */
const sheet = useSheet()
const newAsked = inject<Ref<number>>('newAsked')
watch(newAsked!, () => (sheet.value = 'food'))

const lines = computed(() => {
  const all = [...(needs.data.value?.lines ?? [])]
  if (order.value === 'By kind') return all.sort((a, b) => a.crop_name.localeCompare(b.crop_name))
  if (order.value === 'By way of keeping')
    return all.sort((a, b) => a.how.localeCompare(b.how) || a.name.localeCompare(b.name))
  return all
})
const foods = computed(() => lines.value.filter((l) => l.kind === 'food'))
const picks = computed(() => lines.value.filter((l) => l.kind === 'pick'))
const short = computed(() => lines.value.filter((l) => l.short_plants && !l.missed_s).length)
const missed = computed(() => lines.value.filter((l) => l.missed_s).length)
const cautions = computed(() =>
  [...new Set(foods.value.filter((f) => /jar/.test(f.how)).map((f) => f.caution))].filter(Boolean),
)
const shoots = computed(() => [
  ...new Set(foods.value.filter((f) => f.eaten_by === 'shoots').map((f) => f.caution)),
])

const changing = computed(() => {
  const [what, id] = sheet.value.split(':')
  return what === 'food' && id ? foods.value.find((f) => f.target_id === Number(id)) : undefined
})
const remove = (line: ChainLine) =>
  act.run(line.target_id ? `Took ${line.name} off the list` : `Took ${line.name} back`, () => takeOff(line))
const PICKS = [
  { key: 'name', title: 'what', by: (l: ChainLine) => l.name },
  { key: 'plants', title: 'plants', by: (l: ChainLine) => l.plants },
  { key: 'seeds', title: 'seeds' },
  { key: 'says', title: 'comes to' },
  { key: 'do' },
]
const { productShown, written } = useWriting()
const perWeek = (l: ChainLine) =>
  written(Number(productShown(l.per_week, l.chain?.wanted.unit ?? '').toPrecision(2)))
const part = (seeds: number, line: ChainLine) =>
  `${(100 * seeds) / Math.max(1, line.covered.reduce((s, c) => s + c.seeds, 0) + (line.short_seeds ?? 0))}%`
const seedsNeeded = (l: ChainLine) =>
  l.eaten_by === 'shoots'
    ? ''
    : l.plants === 0
      ? '0'
      : l.tests_first && l.seeds === null
        ? 'test first'
        : l.missed_s || (l.sown_plants && !l.covered.length && !l.short_plants)
          ? ''
          : amount(l.covered.reduce((s, c) => s + c.seeds, 0) + (l.short_seeds ?? 0))
</script>

<template>
  <section>
    <RoomHead title="Needs">
      <span v-if="needs.data.value && lines.length">
        <span class="soft">{{ needs.data.value.season }}. </span>
        <span v-if="short" class="act"
          >{{ short === 1 ? 'One is' : `${short} are` }} short of seed<template
            v-if="needs.data.value.order_by_s"
            >: order by {{ day(needs.data.value.order_by_s) }}</template
          >.</span
        >
        <span v-else-if="!missed" class="soft">All is covered, {{ needs.data.value.confidence }}.</span>
        <span v-if="missed" class="soft"> Of {{ missed }} the sowing is over.</span>
      </span>
      <span class="spring" />
      <RouterLink v-if="foods.length" class="btn quiet" to="/needs/pantry">The pantry</RouterLink>
      <RouterLink v-if="lines.length" class="btn quiet" to="/needs/basket">The basket</RouterLink>
      <RouterLink v-if="lines.length" class="btn quiet" to="/needs/fetch">Fetch the seed</RouterLink>
      <AButton type="primary" @click="sheet = 'food'">Add a food <kbd>n</kbd></AButton>
    </RoomHead>
    <RoomState :query="needs" />
    <div v-if="foods.length" class="row order">
      <AButton type="link" size="small" @click="sheet = 'last'">Take over from last year</AButton>
      <ASegmented v-if="foods.length" v-model:value="order" :options="[...ORDERS]" aria-label="Order" />
    </div>
    <template v-if="needs.data.value">
      <div v-if="!lines.length" class="card empty">
        <h2>What do you want to eat next winter?</h2>
        <p>
          Name one thing and how much of it a week. It is worked back to jars, kilos, plants and seeds, and to
          the packets that cover it.
        </p>
        <AButton type="primary" @click="sheet = 'food'">Add the first food</AButton>
        <AButton type="link" @click="sheet = 'last'">Take last year’s list over</AButton>
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
          <div role="cell" class="food">
            <div>
              <span class="name">{{ l.name }}</span>
              <div class="small soft">{{ l.how }}</div>
            </div>
            <More
              small
              words="…"
              :hears="`more for ${l.name}`"
              :acts="[
                { words: 'change', act: () => void (sheet = `food:${l.target_id}`) },
                { words: 'take off the list', act: () => void remove(l) },
              ]"
            />
          </div>
          <ChainLink
            :line="l"
            link="wanted"
            :value="l.chain?.wanted"
            :under="`${perWeek(l)} a week for ${l.weeks}`"
          />
          <ChainLink :line="l" link="pantry" :value="l.chain?.pantry" />
          <ChainLink :line="l" link="to_put_up" :value="l.chain?.to_put_up" />
          <ChainLink :line="l" link="fresh_kg" :value="l.chain?.fresh_kg" />
          <ChainLink :line="l" link="plants" :value="l.chain?.plants ?? undefined" />
          <div role="cell">
            <strong>{{ seedsNeeded(l) }}</strong>{{
              seedsNeeded(l) && l.unit !== 'seed' ? ` ${l.unit}s` : ''
            }}
            <span class="small">{{ l.covered.map((c) => `${c.code} ${amount(c.seeds)}`).join(' + ') }}</span>
            <div v-for="s in l.shares" :key="s.variety_id" class="small soft">
              {{ s.name }}: {{ many(s.plants, 'plant')
              }}<span v-if="s.short_plants" class="act">, {{ s.short_plants }} short</span>
            </div>
            <div v-if="l.beside.length" class="small soft">
              beside it, used up: {{ l.beside.map((c) => `${c.code} ${amount(c.seeds)}`).join(', ') }} (may be
              dead)
            </div>
            <div v-if="l.plants && seedsNeeded(l)" class="bar" aria-hidden="true">
              <RouterLink
                v-for="c in l.covered"
                :key="c.lot_id"
                :to="c.lot_id > 0 ? `/stock/${c.lot_id}` : '/needs/basket'"
                tabindex="-1"
                :style="{ width: part(c.seeds, l) }"
                :title="`${c.code} ${c.variety}: ${c.seeds} ${c.unit}s`"
              />
            </div>
          </div>
          <div role="cell">
            <strong :class="{ act: l.short_plants }">{{ l.says }}</strong>&nbsp;<Why
              :lines="[...l.why, ...l.sow].map((text) => ({ text }))"
            />
            <div v-if="l.types.length" class="small soft">
              asks for {{ l.types.join(', ')
              }}<template v-if="l.pinch.length && l.short_plants"
                >; at a pinch {{ l.pinch.slice(0, 3).join(', ') }}: choose the types to count them</template
              >
            </div>
            <div class="small soft">
              {{ l.next_act
              }}<template v-if="l.order_by_s && l.order === 'in_time'"> by {{ day(l.order_by_s) }}</template>
            </div>
          </div>
        </div>
        <p class="small soft legend">
          <u class="own">underlined</u>: your own number · plain: the book · <u class="guess">dotted</u>: a
          guess · every number opens
        </p>
      </div>
      <RoomCard v-if="lines.length" :room="needs.data.value.room" :lines />
      <template v-if="picks.length">
        <h2>Grown for their own sake</h2>
        <p class="small"><RouterLink to="/needs/stars">Star what is grown this year</RouterLink></p>
        <DataTable :rows="picks" :columns="PICKS" by="key">
          <template #name="{ row }"
            ><span class="name">{{ row.name }}</span> <span class="soft">{{ row.crop_name }}</span></template
          >
          <template #plants="{ row }">{{ many(row.plants ?? 0, 'plant') }} for {{ row.how }}</template>
          <template #seeds="{ row }"
            >{{ seedsNeeded(row) }}
            {{ seedsNeeded(row) === '1' ? row.unit : seedsNeeded(row) ? `${row.unit}s` : '' }}
            <span class="soft">{{ row.covered.map((c) => c.code).join(' + ') }}</span></template
          >
          <template #says="{ row }"
            ><strong :class="{ act: row.short_plants }">{{ row.says }}</strong>
            <Why :lines="[...row.why, ...row.sow].map((text) => ({ text }))"
          /></template>
          <template #do="{ row }"
            ><AButton type="link" size="small" @click="remove(row)">take off</AButton></template
          >
        </DataTable>
      </template>
      <p v-else-if="foods.length" class="soft small">
        Flowers, a trial, a green manure?
        <RouterLink to="/needs/stars">Star what is grown this year</RouterLink>.
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
      <template v-if="shoots.length">
        <h2>Shoots</h2>
        <ul class="small soft">
          <li v-for="c in shoots" :key="c">{{ c }}</li>
        </ul>
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

    <LastYearForm v-if="sheet === 'last'" @close="sheet = ''" />
    <FoodForm v-if="sheet.startsWith('food')" :key="sheet" :changing @close="sheet = ''" />
  </section>
</template>

<style scoped>
.spring {
  flex: 1;
}
.order {
  justify-content: space-between;
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
.food {
  display: flex;
  justify-content: space-between;
  align-items: flex-start;
  gap: 4px;
  padding-right: 8px;
}
.head {
  border: 0;
  padding: 2px 0;
}
.chain > :first-child {
  position: relative;
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
