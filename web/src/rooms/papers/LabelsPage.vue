<script setup lang="ts">
import { useStorage } from '@vueuse/core'
import { computed, ref, watch } from 'vue'
import { useRoute } from 'vue-router'
import type { StockRow } from '../../api/client'
import { useRows, useSheets, useShelves } from '../../api/queries'
import { many } from '../../parts/words'
import RoomHead from '../../parts/RoomHead.vue'

/** Labels for some lots on any sheet, from any place of a part-used one; lists and cards likewise. */
const route = useRoute()
const sheets = useSheets()
const shelves = useShelves()
const order = ref('season')
const rows = useRows(order)
const sheet = useStorage('label-sheet', 'a4-3x8')
const start = ref(1)
const ofEach = ref<number | null>(1)
const copies = computed(() => ofEach.value ?? 1)
const words = ref('')
const chosen = ref(new Set<number>())
watch(
  () => route.query.lots,
  (lots) => (chosen.value = new Set(String(lots ?? '').split(',').map(Number).filter(Boolean))),
  { immediate: true },
) // prettier-ignore
const all = computed(() => rows.data.value?.rows ?? [])
const shown = computed(() => {
  const wanted = words.value.toLowerCase().split(/\s+/).filter(Boolean)
  const fits = (r: StockRow) =>
    wanted.every((w) =>
      `${r.code} ${r.variety} ${r.kind_name} ${r.place} ${r.tags}`.toLowerCase().includes(w),
    )
  return all.value.filter((r) => (wanted.length ? fits(r) : chosen.value.has(r.lot_id))).slice(0, 200)
})
const picked = computed(() => all.value.filter((r) => chosen.value.has(r.lot_id)))
const one = computed(() => sheets.data.value?.find((s) => s.key === sheet.value))
const places = computed(() => (one.value ? one.value.columns * one.value.rows : 0))
const used = computed(() => picked.value.length * copies.value)
const pages = computed(() => (places.value ? Math.ceil((start.value - 1 + used.value) / places.value) : 0))
watch(one, () => (start.value = Math.min(start.value, Math.max(places.value, 1))))
function toggle(id: number) {
  const next = new Set(chosen.value)
  if (!next.delete(id)) next.add(id)
  chosen.value = next
}
const url = computed(() => {
  const q = new URLSearchParams()
  for (const r of picked.value) q.append('lot_ids', String(r.lot_id))
  q.set('sheet', sheet.value)
  q.set('start', String(start.value))
  q.set('copies', String(copies.value))
  return `/api/papers/labels.pdf?${q}`
})
const papers = computed(() => (sheets.data.value ?? []).map((s) => ({ value: s.key, label: s.words })))
const boxes = computed(() =>
  (shelves.data.value ?? []).flatMap((s) => [s.place, ...s.boxes]).filter((b) => b.lots),
)
const nodes = ref(new Set<number>())
function toggleNode(id: number) {
  const next = new Set(nodes.value)
  if (!next.delete(id)) next.add(id)
  nodes.value = next
}
const paperUrl = (kind: string) => {
  const q = new URLSearchParams()
  const wanted = nodes.value.size ? [...nodes.value] : boxes.value.map((b) => b.node_id)
  for (const id of wanted) q.append('node_ids', String(id))
  q.set('kind', kind)
  return `/api/papers/containers.pdf?${q}`
}
</script>

<template>
  <section>
    <RoomHead title="Labels" back="Papers" to="/papers">
      <span class="soft">Black on white, with a code one can say and one a phone can read.</span>
    </RoomHead>
    <div class="two-columns">
      <div>
        <h2>For which packets</h2>
        <OnlyBox v-model="words" class="find" hears="Find packets" such="kale, tin 2, tomato" />
        <p v-if="!shown.length" class="soft">
          {{
            words ? 'Nothing by that name.' : 'Type a kind, a name or a place, or choose packets in Stock.'
          }}
        </p>
        <ul class="lots">
          <li v-for="r in shown" :key="r.lot_id">
            <ACheckbox :checked="chosen.has(r.lot_id)" @change="toggle(r.lot_id)">
              <span class="code">{{ r.code }}</span> {{ r.variety }}
              <span class="soft small">{{ r.kind_name }} · {{ r.origin }} · {{ r.place }}</span></ACheckbox
            >
          </li>
        </ul>
        <AButton
          v-if="words && shown.length"
          type="link"
          size="small"
          @click="chosen = new Set([...chosen, ...shown.map((r) => r.lot_id)])"
        >
          choose all {{ shown.length }} shown
        </AButton>
      </div>
      <div>
        <h2>On which paper</h2>
        <div class="row">
          <ChoiceField v-model="sheet" label="sheet" :options="papers" />
          <NumberField v-model="ofEach" label="of each" :min="1" :max="50" />
        </div>
        <template v-if="one">
          <p class="small soft">Touch the first free place of a part-used sheet.</p>
          <div
            class="sheet"
            :style="{
              gridTemplateColumns: `repeat(${one.columns}, 1fr)`,
              aspectRatio: one.page === 'A4' ? '210/297' : '216/279',
            }"
            role="group"
            aria-label="Places on the first sheet"
          >
            <button
              v-for="i in places"
              :key="i"
              type="button"
              :class="{ gone: i < start, taken: i >= start && i < start + used }"
              :aria-label="`start at place ${i}`"
              :aria-pressed="i === start"
              @click="start = i"
            />
          </div>
        </template>
        <p>
          <a v-if="picked.length" class="btn" :href="url" target="_blank" rel="noopener"
            >Make {{ many(used, 'label') }} (PDF)</a
          >
          <span v-else class="soft">No packet is chosen yet.</span>
          <span v-if="picked.length" class="soft small">
            {{ many(pages, 'page') }}, in the order your packets stand</span
          >
        </p>
        <h2>Container lists and drawer cards</h2>
        <p class="small soft">{{ nodes.size ? `${nodes.size} chosen` : 'All containers that hold seed' }}</p>
        <div class="boxes small">
          <ACheckbox
            v-for="b in boxes"
            :key="b.node_id"
            :checked="nodes.has(b.node_id)"
            @change="toggleNode(b.node_id)"
          >
            {{ b.name }} ({{ b.lots }})</ACheckbox
          >
        </div>
        <p class="row">
          <a class="btn quiet" :href="paperUrl('lists')" target="_blank" rel="noopener">Lists (PDF)</a>
          <a class="btn quiet" :href="paperUrl('cards')" target="_blank" rel="noopener">Drawer cards (PDF)</a>
        </p>
      </div>
    </div>
  </section>
</template>

<style scoped>
.find {
  width: 100%;
}
.lots {
  list-style: none;
  padding: 0;
  margin: 8px 0;
  max-height: 60vh;
  overflow: auto;
}
.lots li {
  border-top: 1px solid var(--hair-soft);
  padding: 5px 0;
}
.sheet {
  display: grid;
  gap: 2px;
  width: 200px;
  border: 1px solid var(--hair);
  padding: 5px;
  margin: 6px 0 10px;
  background: var(--page);
}
.sheet button {
  border: 1px solid var(--hair);
  background: none;
  cursor: pointer;
  padding: 0;
  min-height: 4px;
}
.sheet .gone {
  background: repeating-linear-gradient(135deg, var(--hair) 0 2px, transparent 2px 5px);
}
.sheet .taken {
  background: var(--act);
}
.off {
  opacity: 0.5;
}
.boxes {
  display: flex;
  flex-wrap: wrap;
  gap: 4px 16px;
  margin-bottom: 8px;
}
</style>
