<script setup lang="ts">
import { useMediaQuery } from '@vueuse/core'
import { computed, nextTick, ref, watch } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import type { Box } from '../../api/client'
import { useAlarms, useRows, useShelves } from '../../api/queries'
import { useNew } from '../../parts/keys'
import { useSheet } from '../../parts/sheets'
import { day, many, middle, percent, word } from '../../parts/words'
import { useWriting } from '../../parts/writing'
import AddPlace from './AddPlace.vue'
import AlarmList from './AlarmList.vue'
import BestUse from './BestUse.vue'
import DialForm from './DialForm.vue'
import ImportFile from './ImportFile.vue'
import RoomHead from '../../parts/RoomHead.vue'

const shelves = useShelves()
const list = useRows(ref('season'))
const alarms = useAlarms()
const units = useWriting()
const route = useRoute()
const router = useRouter()
const chosen = ref<number | null>(route.query.node ? Number(route.query.node) : null)
const sheet = useSheet()
const allAlarms = ref(false)
useNew('add a place or container', () => (sheet.value = 'add'))
watch(
  () => route.query.node,
  (n) => n && (chosen.value = Number(n)),
)
const all = computed(() => (shelves.data.value ?? []).flatMap((s) => [s.place, ...s.boxes]))
const box = computed(() => all.value.find((b) => b.node_id === chosen.value))
const inside = computed(() => (list.data.value?.rows ?? []).filter((l) => l.node_id === chosen.value))
const hurting = computed(() => all.value.filter((b) => b.hurting))
const rung = computed(
  () => new Set((alarms.data.value ?? []).filter((a) => a.urgency >= 2).map((a) => a.node_id)),
)
/** On a phone the shelves come first, so one alarm stands above them. */
const phone = useMediaQuery('(max-width: 760px)')
const few = computed(() => (phone.value ? 1 : 3))
const shownAlarms = computed(() => (alarms.data.value ?? []).slice(0, allAlarms.value ? 99 : few.value))
watch(
  shelves.data,
  () => {
    if (chosen.value === null)
      chosen.value =
        hurting.value[0]?.node_id ?? all.value.find((b) => b.lots)?.node_id ?? all.value[0]?.node_id ?? null
  },
  { immediate: true },
)
const dial = ref<InstanceType<typeof DialForm> | null>(null)
async function choose(b: Box) {
  chosen.value = b.node_id
  void router.replace({ query: { ...route.query, node: b.node_id } })
  await nextTick()
  dial.value?.focus()
}
/** Containers of a shelf, those inside others right after them. */
function nested(boxes: Box[], parent: number): Box[] {
  return boxes.filter((b) => b.parent_id === parent).flatMap((b) => [b, ...nested(boxes, b.node_id)])
}
/** The bar of a shelf: full at eight times a steady bedroom; a tick at one. */
const bar = (speed: number) => `${Math.min(100, (100 * Math.log2(1 + speed)) / Math.log2(9))}%`
const tick = `${100 / Math.log2(9)}%`
</script>

<template>
  <section>
    <RoomHead title="Storage">
      <span v-if="all.length">
        <span class="soft"
          >{{ all.filter((b) => b.role === 'container').length }} containers,
          {{ shelves.data.value?.length }} places.
        </span>
        <span v-if="hurting.length" class="act"
          >{{ hurting.length === 1 ? 'One is' : `${hurting.length} are` }} costing you seed.</span
        >
      </span>
      <span class="spring" />
      <RouterLink v-if="all.length" to="/storage/round" class="btn">The round</RouterLink>
      <AButton v-if="all.length" type="primary" ghost @click="sheet = 'best'">
        Best use of good places
      </AButton>
      <AButton type="primary" ghost @click="sheet = 'add'"> Add a place or container <kbd>n</kbd> </AButton>
    </RoomHead>
    <RoomState :query="shelves" />
    <div v-if="shelves.data.value && !all.length" class="card empty">
      <h2>Where does the seed live?</h2>
      <p>
        Name the larder, the drawer, the tin. Without a single reading the forecast then leans on the usual
        climate of such a place.
      </p>
      <AButton type="primary" @click="sheet = 'add'">Add the first place</AButton>
    </div>
    <template v-else>
      <AlarmList :alarms="shownAlarms" />
      <AButton
        v-if="(alarms.data.value ?? []).length > few"
        type="link"
        size="small"
        class="more"
        @click="allAlarms = !allAlarms"
      >
        {{ allAlarms ? 'fewer' : `${(alarms.data.value ?? []).length - few} more to look at` }}
      </AButton>
      <div class="split">
        <div>
          <div v-for="s in shelves.data.value" :key="s.place.node_id" class="shelf">
            <button
              class="place"
              type="button"
              :class="{ on: chosen === s.place.node_id }"
              @click="choose(s.place)"
            >
              <strong class="name">{{ s.place.name }}</strong>
              <span class="small soft"
                >{{ units.temperature(s.place.now_temperature_c) }}, {{ percent(s.place.now_erh) }}</span
              >
              <span class="small soft">{{ word('air_source', s.place.source) }}</span>
            </button>
            <div class="boxes">
              <button
                v-for="b in nested(s.boxes, s.place.node_id)"
                :key="b.node_id"
                type="button"
                class="box"
                :class="{ on: chosen === b.node_id, hurting: b.hurting, inner: b.deep > 1 }"
                :aria-pressed="chosen === b.node_id"
                @click="choose(b)"
                @dblclick="router.push(`/storage/${b.node_id}`)"
              >
                <span class="name">{{ b.name }}</span>
                <strong>{{ units.temperature(b.now_temperature_c) }}</strong>
                <span
                  >{{ b.lots ? `seed ${percent(b.seed_erh)}` : percent(b.now_erh) }} · {{ b.dryness }}</span
                >
                <span class="small soft"
                  >{{ many(b.lots, 'packet') }}<template v-if="b.source === 'usual'"> · a guess</template
                  ><template v-if="word('closing_short', b.closing)">
                    · {{ word('closing_short', b.closing) }}</template
                  ><template v-if="b.is_out"> · out</template></span
                >
                <span v-if="rung.has(b.node_id)" class="small act">look at it</span>
                <span class="bar" :title="b.says"
                  ><i :style="{ width: bar(b.speed) }" :class="{ fast: b.speed > 1.25 }" /><b
                    :style="{ left: tick }"
                /></span>
                <span class="visually-hidden">{{ b.says }}</span>
              </button>
              <span v-if="!s.boxes.length" class="soft small none">nothing stands here</span>
            </div>
          </div>
          <p class="small soft">
            Bar: how fast seed ages there over a year. The tick is a steady bedroom at
            {{ units.about(18) }} and 50 %; a full bar is eight times that; hatched is faster than the tick.
          </p>
        </div>

        <aside v-if="box" class="side">
          <h2>
            <RouterLink :to="`/storage/${box.node_id}`">{{ box.path }}</RouterLink>
          </h2>
          <p class="soft">
            {{ box.kind_words }} · {{ many(box.lots, 'packet')
            }}<template v-if="box.capacity_lots"> of {{ box.capacity_lots }}</template>
            ·
            <template v-if="box.dial_at_s"
              >last read <span>{{ day(box.dial_at_s) }}</span>:
              {{ units.temperature(box.dial_temperature_c) }},
              {{
                box.dial_erh === null || box.dial_erh === undefined ? '–' : percent(box.dial_erh)
              }}</template
            >
            <template v-else>never read</template>
          </p>
          <p>
            <strong>{{ box.says.charAt(0).toUpperCase() + box.says.slice(1) }}</strong>
            <span class="soft"
              >(like a steady {{ units.temperature(box.steady_temperature_c) }} and
              {{ percent(box.steady_erh) }}).</span
            >
          </p>
          <div class="card">
            <DialForm :key="box.node_id" ref="dial" :node-id="box.node_id" :name="box.name" />
            <div class="row small">
              <ImportFile :node-id="box.node_id" :name="box.name" />
              <RouterLink :to="`/storage/${box.node_id}`" class="btn link"
                >its climate, what if, drying</RouterLink
              >
            </div>
          </div>
          <template v-if="inside.length">
            <h3>Inside</h3>
            <ul class="lots">
              <li v-for="l in inside" :key="l.lot_id">
                <RouterLink :to="`/stock/${l.lot_id}`"
                  ><span class="code">{{ l.code }}</span> {{ l.variety }}</RouterLink
                >
                <span class="soft"> {{ l.kind_name }}</span><template v-if="l.now">
                  · {{ middle(l.now.mid, l.now.step) }}
                </template>
                <span class="small" :class="l.urgency >= 2 ? 'act' : 'soft'">{{ l.next_act }}</span>
              </li>
            </ul>
          </template>
        </aside>
      </div>
    </template>
    <AddPlace v-if="sheet === 'add'" :all @close="sheet = ''" />
    <BestUse v-if="sheet === 'best'" @close="sheet = ''" />
  </section>
</template>

<style scoped>
.spring {
  flex: 1;
}
.split {
  display: grid;
  grid-template-columns: minmax(0, 1fr) 410px;
  gap: 24px;
}
.shelf {
  display: grid;
  grid-template-columns: 140px 1fr;
  gap: 10px;
  border-bottom: 5px solid var(--shelf);
  padding-top: 14px;
}
.place {
  font: inherit;
  color: inherit;
  text-align: left;
  background: none;
  border: 0;
  cursor: pointer;
  display: flex;
  flex-direction: column;
  padding: 4px 6px 8px;
}
.place.on {
  background: var(--paper);
}
.boxes {
  display: flex;
  flex-wrap: wrap;
  gap: 10px;
  align-items: flex-end;
}
.none {
  padding-bottom: 10px;
}
.box {
  font: inherit;
  color: inherit;
  text-align: left;
  width: 124px;
  background: var(--page);
  border: 1px solid var(--ink);
  border-bottom: 0;
  border-radius: 4px 4px 0 0;
  padding: 6px 8px 8px;
  display: flex;
  flex-direction: column;
  cursor: pointer;
  line-height: 1.3;
}
.box.hurting {
  background: var(--act-wash);
  border-color: var(--act);
}
.box.on {
  outline: 2px solid var(--act);
  outline-offset: 1px;
}
.box.inner {
  width: 116px;
  border-style: dashed;
}
.more {
  margin: -8px 0 8px;
}
.bar {
  position: relative;
  display: block;
  height: 8px;
  background: var(--hair-soft);
  margin-top: 4px;
}
.bar i {
  display: block;
  height: 100%;
  background: var(--living);
}
.bar i.fast {
  background: repeating-linear-gradient(90deg, var(--warm) 0 4px, transparent 4px 6px);
}
.bar b {
  position: absolute;
  top: -2px;
  bottom: -2px;
  width: 1px;
  background: var(--ink);
}
.side h3 {
  margin-top: 14px;
}
.side {
  border-left: 1px solid var(--hair);
  padding-left: 20px;
  min-width: 0;
}
.lots {
  list-style: none;
  padding: 0;
  margin: 6px 0;
}
.lots li {
  border-top: 1px solid var(--hair-soft);
  padding: 4px 0;
}
@media (max-width: 1000px) {
  .split {
    grid-template-columns: 1fr;
  }
  .side {
    border: 0;
    padding: 0;
  }
}
@media (max-width: 760px) {
  .shelf {
    grid-template-columns: 1fr;
  }
  .box {
    width: calc(50% - 5px);
  }
}
</style>
