<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { computed, ref } from 'vue'
import type { Schemas } from '../../api/client'
import { useAct } from '../../api/queries'
import FilePick from '../../parts/FilePick.vue'
import RoomHead from '../../parts/RoomHead.vue'
import { day, monthNames } from '../../parts/words'
import { useWriting } from '../../parts/writing'
import { bringForecast, theCalendar } from './acts'
import OwnDaysForm from './OwnDaysForm.vue'

/** Each kind over the year: sown indoors, outdoors, in autumn, and harvested, against the frost. */
const found = useQuery({ queryKey: ['sowing-calendar'], queryFn: theCalendar })
const data = computed(() => found.data.value)
const act = useAct()
const { temperature, warmer } = useWriting()
const bring = (file: File) => act.run(`Brought in ${file.name}`, () => bringForecast(file))
const ours = (k: Schemas['KindLine']) => k.spans.some((s) => s.own)
const changed = ref<Schemas['KindLine'] | null>(null)
const nights = computed(() => data.value?.nights ?? [])
/** How cold a night may be within its doubt. */
const cold = (n: Schemas['Night']) => n.low_c - n.sd_c < 0
const text = ref('')
const kinds = computed(() => {
  const asked = text.value.trim().toLowerCase()
  return (data.value?.kinds ?? []).filter((k) => k.kind_name.toLowerCase().includes(asked))
})
const WORDS = {
  indoors: 'sown indoors',
  outdoors: 'sown outdoors',
  autumn: 'sown in autumn',
  harvest: 'eaten',
}
const seconds = (iso: string) => Date.parse(iso) / 1000
const begin = computed(() => new Date(data.value?.begins ?? '2000-01-01'))
const at = (iso: string) => {
  const from = begin.value.getTime()
  const till = Date.UTC(begin.value.getUTCFullYear() + 1, begin.value.getUTCMonth(), 1)
  return Math.min(1, Math.max(0, (Date.parse(iso) - from) / (till - from)))
}
const bar = (s: Schemas['Span']) => ({
  left: `${100 * at(s.first)}%`,
  width: `${Math.max(0.8, 100 * (at(s.last) - at(s.first)))}%`,
})
const said = (s: Schemas['Span']) =>
  `${WORDS[s.what as keyof typeof WORDS]} ${day(seconds(s.first))} to ${day(seconds(s.last))}`
const told = (k: Schemas['KindLine']) => k.spans.map(said).join('; ') || 'no window is known'
const names = monthNames()
const months = computed(() => names.map((_, i) => names[(i + begin.value.getUTCMonth()) % 12]!))
const about = computed(() => {
  const { year, last_frost, first_frost } = data.value ?? {}
  const years = begin.value.getUTCMonth() ? `${year}/${(year ?? 0) + 1}` : String(year)
  const parts = [`${years}, for what is wanted or kept`]
  if (last_frost) parts.push(`last frost about ${day(seconds(last_frost))}`)
  if (first_frost) parts.push(`first about ${day(seconds(first_frost))}`)
  return `${parts.join('; ')}.`
})
</script>

<template>
  <section>
    <RoomHead title="The sowing calendar" back="Growing" to="/growing">
      <span v-if="data" class="soft">{{ about }}</span>
      <span class="spring" />
      <FilePick words="Bring in a forecast" accept=".json,application/json" @file="bring" />
      <AInput v-model:value="text" class="find" placeholder="kind" aria-label="find a kind" allow-clear />
    </RoomHead>
    <RoomState :query="found" />
    <p class="small soft">
      <i class="bar indoors key" /> indoors <i class="bar outdoors key" /> outdoors
      <i class="bar autumn key" /> in autumn <i class="bar harvest key" /> harvest (by the book’s days);
      dashed: last day on which sowing still pays
    </p>
    <p v-if="nights.length" class="small nights" aria-label="nights that are forecast">
      Nights ahead:
      <span v-for="n in nights" :key="n.day" :class="{ act: cold(n) }"
        >{{ day(seconds(n.day)) }} {{ temperature(n.low_c) }}</span
      >
      <span class="soft">(doubt {{ warmer(nights[0]!.sd_c) }} to {{ warmer(nights.at(-1)!.sd_c) }})</span>
    </p>
    <div v-if="data" class="year" role="table" aria-label="the year of each kind">
      <div class="line head small soft" role="row">
        <span role="columnheader">kind</span>
        <span class="months" role="columnheader">
          <span class="visually-hidden">months</span>
          <span v-for="m in months" :key="m" aria-hidden="true">{{ m.slice(0, 3) }}</span>
        </span>
      </div>
      <div v-for="k in kinds" :key="k.kind" class="line" role="row" :data-kind="k.kind_name">
        <span role="rowheader"
          ><span class="name">{{ k.kind_name }}</span>
          <span class="small soft says"
            >{{ k.packets ? `${k.packets} in hand` : 'none in hand' }}
            <AButton
              type="link"
              size="small"
              :aria-label="`${ours(k) ? 'our own days' : 'change'}: when ${k.kind_name} is sown`"
              @click="changed = k"
              >{{ ours(k) ? 'our own days' : 'change' }}</AButton
            ></span
          ></span
        >
        <span role="cell">
          <span class="track" role="img" :aria-label="told(k)">
            <span
              v-if="data.last_frost"
              class="frost"
              :style="{ left: 0, width: `${100 * at(data.last_frost)}%` }"
            />
            <span
              v-if="data.first_frost"
              class="frost"
              :style="{ left: `${100 * at(data.first_frost)}%`, right: 0 }"
            />
            <i v-for="s in k.spans" :key="s.what + s.first" class="bar" :class="s.what" :style="bar(s)" />
            <span v-if="k.last_useful" class="last" :style="{ left: `${100 * at(k.last_useful)}%` }" />
          </span>
          <span class="small soft says"
            >{{
              k.spans
                .filter((s) => s.what !== 'harvest')
                .map(said)
                .join(', ')
            }}<template v-if="k.says">; {{ k.says }}</template></span
          >
        </span>
      </div>
      <p v-if="!kinds.length" class="soft">
        No kind of that name is wanted or kept. What is sown when stands on every packet’s page too.
      </p>
    </div>
    <OwnDaysForm v-if="changed" :kind="changed" @close="changed = null" />
  </section>
</template>

<style scoped>
.find {
  width: 180px;
}
.nights {
  display: flex;
  flex-wrap: wrap;
  gap: 2px 14px;
}
.line {
  display: grid;
  grid-template-columns: 170px 1fr;
  gap: 4px 14px;
  padding: 6px 0;
  border-top: 1px solid var(--hair-soft);
}
.line.head {
  border-top: 0;
}
.months {
  display: grid;
  grid-template-columns: repeat(12, 1fr);
}
.says {
  display: block;
}
.track {
  display: block;
  position: relative;
  height: 22px;
  background: var(--page);
  border: 1px solid var(--hair);
  overflow: hidden;
}
.frost {
  position: absolute;
  top: 0;
  bottom: 0;
  background: var(--frost);
}
.bar {
  position: absolute;
  height: 7px;
  top: 3px;
}
.bar.key {
  position: static;
  display: inline-block;
  width: 18px;
  margin-left: 6px;
}
.bar.indoors {
  border: 1.5px solid var(--living);
}
.bar.outdoors {
  background: var(--living);
}
.bar.autumn {
  background: var(--faded);
}
.bar.harvest {
  top: 12px;
  background: var(--warm);
  opacity: 0.75;
}
.last {
  position: absolute;
  top: 0;
  bottom: 0;
  border-left: 2px dashed var(--ink);
}
@media (max-width: 700px) {
  .line {
    grid-template-columns: 1fr;
  }
  .head > :first-child {
    display: none;
  }
}
</style>
