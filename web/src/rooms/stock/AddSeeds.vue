<script setup lang="ts">
import { computed, nextTick, reactive, ref } from 'vue'
import { api, take } from '../../api/client'
import { useAct, useKinds, useShelves } from '../../api/queries'
import KindField from '../../parts/KindField.vue'
import Modal from '../../parts/Modal.vue'

defineProps<{ open: boolean }>()
const emit = defineEmits<{ close: [] }>()
const act = useAct()
const kinds = useKinds()
const shelves = useShelves()

type Typed = { kind: string; variety: string; year: string; quantity: string; source: string; keep: boolean }
const blank = (): Typed => ({ kind: '', variety: '', year: '', quantity: '', source: 'bought', keep: false })
const rows = reactive<Typed[]>([blank(), blank(), blank()])
const place = ref<number | null>(null)
const grid = ref<HTMLElement | null>(null)
const places = computed(() =>
  (shelves.data.value ?? []).flatMap((s) => (s.boxes.length ? s.boxes : [s.place])),
)
const filled = computed(() => rows.filter((r) => r.kind.trim() || r.variety.trim()))
const strangers = computed(() => {
  const known = new Set((kinds.data.value ?? []).map((k) => k.name.toLowerCase()))
  return [...new Set(filled.value.map((r) => r.kind.trim()).filter((k) => k && !known.has(k.toLowerCase())))]
})
const relative = ref('')
const season = ref<'cool' | 'warm' | 'herb' | 'flower' | 'cover'>('cool')

async function nextRow(i: number) {
  if (i === rows.length - 1) rows.push(blank())
  await nextTick()
  grid.value?.querySelectorAll<HTMLElement>('.line')[i + 1]?.querySelector<HTMLInputElement>('input')?.focus()
}
async function addKind(name: string) {
  const stand = kinds.data.value?.find((k) => k.name === relative.value && k.known)?.key ?? null
  await act.run(`Added the kind ${name}`, () =>
    take(api.POST('/api/kinds', { body: { name, stand_in: stand, season: season.value } })),
  )
}
async function save() {
  const packets = filled.value.map((r) => {
    const key = kinds.data.value?.find((k) => k.name.toLowerCase() === r.kind.trim().toLowerCase())?.key
    return {
      kind: key ?? r.kind.trim(),
      variety: r.variety.trim(),
      year: r.year.trim() ? Number(r.year) : null,
      quantity: r.quantity.trim(),
      source: r.source,
      kept_line: r.keep,
      node_id: place.value,
    }
  })
  const words = packets.length === 1 ? 'Added a packet' : `Added ${packets.length} packets`
  const done = await act.run(words, () => take(api.POST('/api/stock/lots', { body: { packets } as never })))
  if (!done) return
  rows.splice(0, rows.length, blank(), blank(), blank())
  emit('close')
}
</script>

<template>
  <Modal :open="open" title="Add seeds" :width="920" @close="emit('close')">
    <p class="soft">
      Type what the packets say; leave out what they do not. A kind or a name is enough, the rest can follow
      later.
    </p>
    <label class="field where">
      They stand in
      <select v-model="place">
        <option :value="null">not said: a cupboard in the house</option>
        <option v-for="b in places" :key="b.node_id" :value="b.node_id">{{ b.path }}</option>
      </select>
    </label>
    <div ref="grid" class="grid">
      <div class="head small soft">
        <span>kind</span><span>name</span><span>year</span><span>how much</span><span>from</span
        ><span>a line to keep</span>
      </div>
      <form v-for="(r, i) in rows" :key="i" class="line" @submit.prevent="nextRow(i)">
        <KindField v-model="r.kind" :label="`kind, packet ${i + 1}`" />
        <input
          v-model="r.variety"
          class="plain"
          :aria-label="`name, packet ${i + 1}`"
          placeholder="Millrace"
        />
        <input
          v-model="r.year"
          class="plain"
          inputmode="numeric"
          :aria-label="`year, packet ${i + 1}`"
          placeholder="2024"
        />
        <input
          v-model="r.quantity"
          class="plain"
          :aria-label="`how much, packet ${i + 1}`"
          placeholder="120 or 3 g"
        />
        <select v-model="r.source" class="plain" :aria-label="`from, packet ${i + 1}`">
          <option value="bought">bought</option>
          <option value="own">own saved</option>
          <option value="gift">a gift</option>
          <option value="unknown">who knows</option>
        </select>
        <label class="keep"
          ><input v-model="r.keep" type="checkbox" :aria-label="`keep as a line, packet ${i + 1}`"
        /></label>
        <button class="visually-hidden" type="submit" tabindex="-1">next packet</button>
      </form>
    </div>
    <p class="small soft"><kbd>Enter</kbd> goes to the next packet.</p>
    <div v-for="name in strangers" :key="name" class="card stranger">
      <strong>{{ name }}</strong> is not in the tables. Kept as unknown, or add it as a kind of your own:
      <div class="row">
        <label class="field"
          >nearest relative, if you know one
          <select v-model="relative">
            <option value="">none: a wide guess</option>
            <option v-for="k in kinds.data.value?.filter((x) => x.known)" :key="k.key">{{ k.name }}</option>
          </select>
        </label>
        <label class="field"
          >kept with
          <select v-model="season">
            <option value="cool">cool season</option>
            <option value="warm">warm season</option>
            <option value="herb">herbs</option>
            <option value="flower">flowers</option>
            <option value="cover">cover and grain</option>
          </select>
        </label>
        <button class="btn quiet" type="button" @click="addKind(name)">Add {{ name }} as a kind</button>
      </div>
      <p class="small soft">Hazards of such a kind are unknown: it counts as not edible.</p>
    </div>
    <div class="row end">
      <button class="btn plain" type="button" @click="rows.push(blank())">Another line</button>
      <button class="btn" type="button" :disabled="!filled.length || act.busy.value" @click="save">
        {{ filled.length > 1 ? `Add ${filled.length} packets` : 'Add packet' }}
      </button>
    </div>
  </Modal>
</template>

<style scoped>
.where {
  max-width: 360px;
  margin-bottom: 10px;
}
.head,
.line {
  display: grid;
  grid-template-columns: 1.3fr 1.5fr 0.6fr 0.9fr 0.9fr 90px;
  gap: 8px;
  align-items: center;
  margin-bottom: 6px;
}
.keep {
  text-align: center;
}
.keep input {
  width: 20px;
  height: 20px;
}
.stranger {
  margin: 8px 0;
  background: var(--act-wash);
}
.end {
  justify-content: flex-end;
  margin-top: 12px;
}
@media (max-width: 760px) {
  .head {
    display: none;
  }
  .line {
    grid-template-columns: 1fr 1fr;
    border-bottom: 1px solid var(--hair);
    padding-bottom: 10px;
  }
}
</style>
