<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { computed } from 'vue'
import type { Schemas } from '../../api/client'
import { useAct } from '../../api/queries'
import RoomHead from '../../parts/RoomHead.vue'
import { amount, day, many } from '../../parts/words'
import { pullList, setState } from './acts'

/** What is fetched for the year's sowings: container by container, as one walks. */
const pull = useQuery({ queryKey: ['pull'], queryFn: pullList })
const act = useAct()
const data = computed(() => pull.data.value)
type Line = Schemas['PullLine']
const tick = (p: Line) =>
  act.run(
    p.fetched ? `Put ${p.code} back` : `Fetched ${p.code}`,
    () => setState([p.lot_id], p.fetched ? 'here' : 'fetched'),
    true,
  )
const all = (lines: Line[], state: 'here' | 'fetched') => {
  const some = lines.filter((p) => p.fetched !== (state === 'fetched'))
  const words = state === 'here' ? 'Put back' : 'Fetched'
  return act.run(`${words} ${many(some.length, 'packet')}`, () =>
    setState(
      some.map((p) => p.lot_id),
      state,
    ),
  )
}
const everything = computed(() => data.value?.stops.flatMap((s) => s.lines) ?? [])
</script>

<template>
  <section>
    <RoomHead title="Fetch the seed" back="Needs" to="/needs">
      <span v-if="data" class="soft"
        >{{ data.season }}. {{ data.fetched }} of {{ many(data.packets, 'packet') }} fetched.</span
      >
      <span class="spring" />
      <AButton v-if="data?.fetched" @click="all(everything, 'here')">All put back</AButton>
      <a v-if="data?.packets" class="btn quiet" href="/api/needs/pull.pdf" target="_blank" rel="noopener"
        >Print it</a
      >
    </RoomHead>
    <RoomState :query="pull" />
    <p v-if="data && !data.packets" class="soft">
      Nothing to fetch: no food or pick is covered by a packet yet. Say what you want in
      <RouterLink to="/needs">Needs</RouterLink>, or <RouterLink to="/needs/stars">star packets</RouterLink>.
    </p>
    <div v-for="s in data?.stops ?? []" :key="s.node_id ?? 0" class="stop" :data-stop="s.place">
      <div class="row top">
        <h2>{{ s.place }}</h2>
        <span class="spring" />
        <AButton
          v-if="s.lines.some((p) => !p.fetched)"
          size="small"
          type="link"
          @click="all(s.lines, 'fetched')"
          >all of it fetched</AButton
        >
      </div>
      <ul>
        <li v-for="p in s.lines" :key="p.lot_id" :class="{ fetched: p.fetched }">
          <ACheckbox :checked="p.fetched" class="tick" @change="tick(p)">
            <span class="code">{{ p.code }}</span> {{ p.variety }}
            <span class="soft">{{ p.kind_name }}</span>
          </ACheckbox>
          <span class="how">
            {{ amount(p.seeds) }} {{ p.seeds === 1 ? p.unit : `${p.unit}s` }}
            <span class="soft"
              >for {{ p.wanted_for }}<template v-if="p.extra">, used up beside the sound one</template
              ><template v-if="p.position">; {{ p.position }}</template
              ><template v-if="p.sow_s">; sown from {{ day(p.sow_s) }}</template></span
            >
          </span>
          <RouterLink :to="`/stock/${p.lot_id}`" class="small">packet</RouterLink>
        </li>
      </ul>
    </div>
  </section>
</template>

<style scoped>
.stop {
  border-top: 2px solid var(--shelf);
  margin-top: 10px;
  padding-top: 6px;
}
.top {
  align-items: baseline;
}
h2 {
  margin: 0;
  font-size: 16px;
}
ul {
  list-style: none;
  padding: 0;
  margin: 0;
}
li {
  display: grid;
  grid-template-columns: minmax(240px, 1fr) 2fr auto;
  gap: 2px 12px;
  align-items: baseline;
  padding: 6px 0;
  border-top: 1px solid var(--hair-soft);
}
.fetched .how,
.fetched .tick {
  opacity: 0.6;
}
@media (max-width: 700px) {
  li {
    grid-template-columns: 1fr auto;
    min-height: 52px;
  }
  .how {
    grid-column: 1 / -1;
    padding-left: 24px;
    grid-row: 2;
  }
}
</style>
