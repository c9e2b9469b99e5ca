<script setup lang="ts">
import { computed, reactive, ref } from 'vue'
import { api, take, type Schemas } from '../../api/client'
import { useKinds } from '../../api/queries'

/** All that is written of a packet in one form; what changed is saved in one act. */
const props = defineProps<{ page: Schemas['LotPage'] }>()
const emit = defineEmits<{ save: [body: Record<string, unknown>, words: string] }>()
const line = computed(() => props.page.line)
const written = computed(() => props.page.written)
const kinds = useKinds()
const first = () => ({
  kind: line.value.known_kind || line.value.kind !== 'unknown' ? line.value.kind_name : '',
  variety: line.value.variety,
  description: written.value.description,
  hybrid: line.value.hybrid,
  treated: line.value.treated,
  kept_line: line.value.kept_line,
  crossed_risk: line.value.crossed_risk,
  source: line.value.source,
  date: written.value.date,
  person_from: written.value.person_from,
  seller: written.value.seller,
  mother: written.value.mother,
  stated: written.value.stated_germination,
  sow: written.value.packet.packet_sow_window ?? '',
  sprout: written.value.packet.packet_days_to_sprout ?? '',
  harvest: written.value.packet.packet_days_to_harvest ?? '',
  code: line.value.code,
  tags: line.value.tags,
  intended_use: line.value.intended_use,
  note: line.value.note,
})
const was = first()
const now = reactive(first())
const wrong = ref('')
const PLAIN = [
  'variety', 'description', 'hybrid', 'treated', 'kept_line', 'crossed_risk', 'source', 'date', 'person_from',
  'seller', 'code', 'tags', 'intended_use', 'note',
] as const // prettier-ignore

async function save() {
  wrong.value = ''
  const body: Record<string, unknown> = {}
  for (const field of PLAIN) if (now[field] !== was[field]) body[field] = now[field]
  if (now.kind !== was.kind) {
    const word = now.kind.trim()
    const found = word
      ? await take(api.GET('/api/kinds/meant', { params: { query: { word } } })).catch(() => [])
      : []
    const [one] = found
    if (word && (!one || one.how !== 'same')) {
      wrong.value = one
        ? `Which kind is ${word}? Perhaps ${found.map((c) => c.name).join(', ')}.`
        : `No kind is called ${word}: add it as one of your own, or leave it empty.`
      return
    }
    body.kind = one?.key ?? ''
  }
  if (now.mother.trim() !== was.mother) {
    const lots = await take(api.GET('/api/stock/lots'))
    const found = lots.find((l) => l.code.toLowerCase() === now.mother.trim().toLowerCase())
    if (!found) {
      wrong.value = `No packet has the code ${now.mother}.`
      return
    }
    body.mother_lot_id = found.lot_id
  }
  if (now.stated !== was.stated) {
    const share = Number(now.stated.replace('%', '').replace(',', '.'))
    if (now.stated.trim() && !(share >= 0 && share <= 100)) {
      wrong.value = 'A stated germination is 0 to 100 %.'
      return
    }
    body.stated_germination = now.stated.trim() ? share / 100 : -1
  }
  const packet: Record<string, string> = {}
  if (now.sow !== was.sow) packet.packet_sow_window = now.sow
  if (now.sprout !== was.sprout) packet.packet_days_to_sprout = now.sprout
  if (now.harvest !== was.harvest) packet.packet_days_to_harvest = now.harvest
  if (Object.keys(packet).length) body.packet = packet
  emit('save', body, `Changed ${line.value.code} ${now.variety}`)
}
</script>

<template>
  <form class="mend" @submit.prevent="save">
    <label class="field"
      >kind<input v-model="now.kind" name="kind" list="mend-kinds" placeholder="nobody knows" /><datalist
        id="mend-kinds"
      >
        <option v-for="k in kinds.data.value ?? []" :key="k.key" :value="k.name" /></datalist
    ></label>
    <label class="field">name<input v-model="now.variety" name="variety" /></label>
    <label class="field">what it looks like<input v-model="now.description" name="description" /></label>
    <label class="field"
      >harvested or packed<input v-model="now.date" name="date" placeholder="2024, Sep 2024, 2022-2024, ?"
    /></label>
    <label class="field"
      >it is<select v-model="now.source" name="source">
        <option value="bought">bought</option>
        <option value="own">own saved</option>
        <option value="gift">a gift</option>
        <option value="unknown">who knows</option>
      </select></label
    >
    <label class="field">from whom<input v-model="now.person_from" name="person_from" /></label>
    <label class="field">bought from<input v-model="now.seller" name="seller" /></label>
    <label class="field"
      >grown from (code)<input v-model="now.mother" name="mother" placeholder="its mother packet"
    /></label>
    <label class="field">germination on the packet, %<input v-model="now.stated" name="stated" /></label>
    <label class="field">packet: sow<input v-model="now.sow" name="sow" placeholder="Mar to May" /></label>
    <label class="field">packet: days to come up<input v-model="now.sprout" name="sprout" /></label>
    <label class="field">packet: days to harvest<input v-model="now.harvest" name="harvest" /></label>
    <label class="field">code<input v-model="now.code" name="code" /></label>
    <label class="field">tags<input v-model="now.tags" name="tags" placeholder="early, for Tam" /></label>
    <label class="field"
      >meant for<select v-model="now.intended_use" name="use">
        <option v-for="u in page.uses" :key="u">{{ u }}</option>
      </select></label
    >
    <label class="field wide">note<input v-model="now.note" name="note" /></label>
    <div class="wide row">
      <label><input v-model="now.hybrid" type="checkbox" name="hybrid" /> a hybrid</label>
      <label><input v-model="now.treated" type="checkbox" name="treated" /> dressed</label>
      <label><input v-model="now.kept_line" type="checkbox" name="kept" /> a line to keep</label>
      <label><input v-model="now.crossed_risk" type="checkbox" name="crossed" /> may have crossed</label>
    </div>
    <p v-if="wrong" class="wide act" role="alert">{{ wrong }}</p>
    <p class="wide small soft">
      Kind, name, hybrid and dressing are those of this packet and of those split from it; a bag of several
      years: 22, 23, 24. Forecasts and labels follow; it can be undone.
    </p>
    <button class="btn" type="submit">Save</button>
  </form>
</template>

<style scoped>
.mend {
  display: grid;
  grid-template-columns: repeat(3, 1fr);
  gap: 10px;
  margin-bottom: 10px;
}
.mend > * {
  min-width: 0;
}
.wide {
  grid-column: 1 / -1;
  margin: 0;
}
.mend .btn {
  grid-column: 3;
}
@media (max-width: 600px) {
  .mend {
    grid-template-columns: 1fr;
  }
  .mend .btn {
    grid-column: 1;
  }
}
</style>
