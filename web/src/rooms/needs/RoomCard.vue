<script setup lang="ts">
import { computed, ref, watch } from 'vue'
import type { ChainLine, Schemas } from '../../api/client'
import { useAct, useHome } from '../../api/queries'
import ActForm from '../../parts/ActForm.vue'
import { useSheet } from '../../parts/sheets'
import { amount, day, many, percent } from '../../parts/words'
import { useWriting } from '../../parts/writing'
import { setRoom, wantLess } from './acts'

/** Whether the year fits: bed and cells at their fullest, evenings, jars; and the least to give up. */
const props = defineProps<{ room: Schemas['RoomCheck']; lines: ChainLine[] }>()
const home = useHome()
const act = useAct()
const sheet = useSheet()
const { area, written, productShown, volume, metres, unmetre, lengthUnit } = useWriting()
const whole = (n: number) => amount(Math.ceil(n))
type Use = Schemas['UseLine']
const WHAT: Record<string, (u: Use) => string> = {
  bed_m2: () => 'bed',
  cells: () => 'cells indoors',
  evenings: () => 'evenings',
  jars: (u) => `jars of ${volume(u.litres)}`,
}
const much = (n: number, what: string) => (what === 'bed_m2' ? area(n) : whole(n))
const uses = computed(() =>
  props.room.uses
    .filter((u) => u.needed > 0 || u.has !== null)
    .map((u) => ({
      key: `${u.what}${u.litres}`,
      words: WHAT[u.what]!(u),
      needed: much(u.needed, u.what),
      has: u.has === null || u.has === undefined ? 'not said' : much(u.has, u.what),
      share: u.has ? Math.min(1, u.needed / u.has) : 0,
      missing: u.missing ? much(u.missing, u.what) : '',
      when: u.day ? `fullest from ${day(Date.parse(u.day) / 1000)}` : 'over the year',
    })),
)
const missing = computed(() =>
  uses.value
    .filter((u) => u.missing)
    .map((u) => (u.words === 'bed' ? `${u.missing} of bed` : `${u.missing} ${u.words}`)),
)
const line = (key: string) => props.lines.find((l) => l.key === key)
const giveUp = (some: Schemas['GiveUp'][]) =>
  act.run(
    some.length === 1 ? `${some[0]!.name}: ${percent(some[0]!.share)} less` : `${some.length} of them less`,
    () => wantLess(some.map(({ key, share }) => ({ key, share }))),
  )
const left = (g: Schemas['GiveUp']) => {
  const l = line(g.key)
  if (!l || l.kind !== 'food') return many(g.plants, 'plant')
  const unit = l.chain?.wanted.unit ?? ''
  return `${written(Math.round(100 * productShown(g.per_week, unit)) / 100)} a week instead of ${written(Math.round(100 * productShown(l.per_week, unit)) / 100)}`
}
// what there is
const bed = ref<number | null>(null)
const cells = ref<number | null>(null)
const evenings = ref<number | null>(null)
const people = ref<number | null>(null)
const guests = ref<number | null>(0)
watch(
  () => home.data.value?.household,
  (h) => {
    if (!h) return
    bed.value =
      typeof h.food_bed_m2 === 'number' ? Math.round(10 * unmetre(unmetre(h.food_bed_m2))) / 10 : null
    cells.value = h.cells ?? null
    evenings.value = h.evenings ?? null
    people.value = h.people ?? null
    guests.value = h.guest_weeks ?? 0
  },
  { immediate: true },
)
const words = () => 'Said what there is room for'
const call = () =>
  setRoom(
    {
      food_bed_m2: bed.value === null ? null : metres(metres(bed.value)),
      cells: cells.value,
      evenings: evenings.value,
      people: people.value,
      guest_weeks: guests.value ?? 0,
    },
    home.data.value?.household.version,
  )
</script>

<template>
  <section class="card room" :class="{ tight: !room.fits }" aria-label="does it fit">
    <div class="row head">
      <h2>{{ room.fits ? (room.said ? 'It fits' : 'Does it fit?') : 'It does not fit' }}</h2>
      <span class="soft small">
        <template v-if="!room.said">Say what you have, and it is checked before anything is sown.</template>
        <template v-else-if="!room.fits">{{ missing.join(', ') }} missing.</template>
        <template v-if="room.lids_short"> {{ many(room.lids_short, 'lid') }} to buy.</template>
      </span>
      <span class="spring" />
      <AButton size="small" @click="sheet = 'room'">What we have room for</AButton>
    </div>
    <div class="uses">
      <div v-for="u in uses" :key="u.key" class="use">
        <span class="small soft">{{ u.words }}</span>
        <span
          ><strong :class="{ act: u.missing }">{{ u.needed }}</strong>
          <span class="small soft"> of {{ u.has }}</span></span
        >
        <span class="track" aria-hidden="true"
          ><i :class="{ over: u.missing }" :style="{ width: `${100 * u.share}%` }"
        /></span>
        <span class="small soft">{{ u.when }}</span>
      </div>
    </div>
    <template v-if="room.give_up.length">
      <p class="small cheapest">
        The cheapest way to make it fit, by how much each matters<template v-if="room.gap">
          (at most {{ percent(room.gap) }} from the best)</template
        >:
      </p>
      <ul class="give">
        <li v-for="g in room.give_up" :key="g.key">
          <span
            ><strong>{{ g.name }}</strong> {{ percent(g.share) }} less: {{ left(g) }}</span
          >
          <AButton size="small" :aria-label="`Do it: less ${g.name}`" @click="giveUp([g])">Do it</AButton>
        </li>
      </ul>
      <AButton v-if="room.give_up.length > 1" size="small" type="primary" ghost @click="giveUp(room.give_up)"
        >All of these</AButton
      >
      <p class="small soft">Or find what is missing: {{ missing.join(', ') }}.</p>
    </template>
    <p v-else-if="!room.fits" class="small act">
      Nothing in the plan frees that: find {{ missing.join(', ') }}.
    </p>
    <ActForm
      v-if="sheet === 'room'"
      title="What we have room for"
      submit="Keep it"
      :words
      :call
      @close="sheet = ''"
    >
      <div class="two">
        <NumberField
          v-model="bed"
          label="bed for food"
          name="bed for food"
          :unit="`${lengthUnit}²`"
          :min="0"
          help="what is free again counts again"
        />
        <NumberField
          v-model="cells"
          label="cells to sow in indoors"
          name="cells to sow in indoors"
          whole
          :min="0"
          help="at one time"
        />
        <NumberField
          v-model="evenings"
          label="evenings in the year"
          name="evenings for sowing and putting up"
          whole
          :min="0"
          :max="366"
          help="for sowing and putting up"
        />
        <NumberField
          v-model="people"
          label="people at the table"
          name="people at the table"
          whole
          :min="1"
          :max="100"
        />
        <NumberField
          v-model="guests"
          label="weeks of guests"
          name="weeks of guests in a year"
          :min="0"
          help="of one guest, in the year: two for a fortnight are 4"
        />
      </div>
      <p class="small soft">Empty: not counted. Jars are counted in the pantry.</p>
    </ActForm>
  </section>
</template>

<style scoped>
.room {
  margin-top: 14px;
}
.tight {
  border-color: var(--act);
}
.head {
  align-items: baseline;
  gap: 10px;
}
.head h2 {
  margin: 0;
}
.spring {
  flex: 1;
}
.uses {
  display: grid;
  grid-template-columns: repeat(auto-fit, minmax(170px, 1fr));
  gap: 10px 18px;
  margin-top: 8px;
}
.use {
  display: grid;
}
.track {
  height: 6px;
  border: 1px solid var(--hair);
  margin: 3px 0 1px;
}
.track i {
  display: block;
  height: 100%;
  background: var(--living);
}
.track i.over {
  background: var(--act);
}
.cheapest {
  margin: 12px 0 2px;
}
.give {
  list-style: none;
  padding: 0;
  margin: 0 0 6px;
}
.give li {
  display: flex;
  gap: 12px;
  justify-content: space-between;
  align-items: center;
  padding: 4px 0;
  border-top: 1px solid var(--hair-soft);
}
.two {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 0 14px;
}
@media (max-width: 480px) {
  .two {
    grid-template-columns: 1fr;
  }
}
</style>
