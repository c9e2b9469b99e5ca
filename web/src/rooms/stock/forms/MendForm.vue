<script setup lang="ts">
import { computed, reactive } from 'vue'
import { api, Problem, take, type Schemas } from '../../../api/client'
import ActForm from '../../../parts/ActForm.vue'
import { wordsOf } from '../../../parts/words'
import { changeLot } from '../acts'
import { called, SOURCES } from './lots'

/** All that is written of a packet in one form; what changed is saved in one act. */
const props = defineProps<{ page: Schemas['LotPage'] }>()
const line = computed(() => props.page.line)
const written = computed(() => props.page.written)
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
  stated_as: written.value.stated_as,
  types: [...written.value.types],
  form: written.value.form,
  sow: written.value.packet.packet_sow_window ?? '',
  sprout: written.value.packet.packet_days_to_sprout ?? '',
  harvest: written.value.packet.packet_days_to_harvest ?? '',
  code: line.value.code,
  tags: line.value.tags,
  intended_use: line.value.intended_use,
  note: line.value.note,
})
const was = first()
const typeOptions = computed(() => written.value.type_choices.map((t) => ({ value: t.key, label: t.name })))
const now = reactive(first())
const PLAIN = [
  'variety', 'description', 'hybrid', 'treated', 'kept_line', 'crossed_risk', 'source', 'date', 'person_from',
  'seller', 'code', 'tags', 'intended_use', 'note', 'form',
] as const // prettier-ignore

/** What is wrong with a field, before anything is sent. */
const refuse = (field: string, reason: string) => new Problem(0, 'Not yet', reason, field)
async function kindKey(word: string) {
  if (!word) return ''
  const found = await take(api.GET('/api/kinds/meant', { params: { query: { word } } })).catch(() => [])
  const [one] = found
  if (one?.how === 'same') return one.key
  throw refuse(
    'kind',
    one
      ? `Which kind is ${word}? Perhaps ${found.map((c) => c.name).join(', ')}.`
      : `No kind is called ${word}: add it as one of your own, or leave it empty.`,
  )
}
async function motherId(code: string) {
  const lots = await take(api.GET('/api/stock/lots'))
  const found = lots.find((l) => l.code.toLowerCase() === code.toLowerCase())
  if (!found) throw refuse('mother', `No packet has the code ${code}.`)
  return found.lot_id
}
function stated(text: string) {
  const share = Number(text.replace('%', '').replace(',', '.'))
  if (text.trim() && !(share >= 0 && share <= 100))
    throw refuse('stated', 'A stated germination is 0 to 100 %.')
  return text.trim() ? share / 100 : -1
}
/** Only what changed is sent. */
async function changed(): Promise<Schemas['LotEdit']> {
  const body: Record<string, unknown> = { version: props.page.version }
  for (const field of PLAIN) if (now[field] !== was[field]) body[field] = now[field]
  if (now.kind !== was.kind) body.kind = await kindKey(now.kind.trim())
  if (now.mother.trim() !== was.mother) body.mother_lot_id = await motherId(now.mother.trim())
  if (now.stated !== was.stated) body.stated_germination = stated(now.stated)
  if (now.stated_as !== was.stated_as) body.stated_as = now.stated_as
  if (now.types.join(',') !== was.types.join(',')) body.types = now.types.join(',')
  const packet: Record<string, string> = {}
  if (now.sow !== was.sow) packet.packet_sow_window = now.sow
  if (now.sprout !== was.sprout) packet.packet_days_to_sprout = now.sprout
  if (now.harvest !== was.harvest) packet.packet_days_to_harvest = now.harvest
  if (Object.keys(packet).length) body.packet = packet
  return body
}
const words = () => `Changed ${line.value.code} ${now.variety}`
let body: Schemas['LotEdit'] = {}
const prepare = async () => {
  body = await changed()
}
const call = () => changeLot(line.value.lot_id, body)
</script>

<template>
  <ActForm :title="`Put ${called([line])} right`" :width="720" submit="Save" :words :prepare :call>
    <div class="mend">
      <KindField v-model="now.kind" placeholder="nobody knows" />
      <TextField v-model="now.variety" label="name" name="variety" />
      <TextField v-model="now.description" label="what it looks like" name="description" />
      <HarvestField v-model="now.date" />
      <ChoiceField v-model="now.source" label="it is" name="source" :options="SOURCES" />
      <TextField v-model="now.person_from" label="from whom" name="person_from" />
      <TextField v-model="now.seller" label="bought from" name="seller" />
      <TextField v-model="now.mother" label="grown from (code)" name="mother" placeholder="K1" />
      <TextField v-model="now.stated" label="germination on the packet" name="stated" unit="%" decimal />
      <ChoiceField
        v-model="now.stated_as"
        label="that is"
        name="stated_as"
        :options="[
          { value: '', label: 'as is usual' },
          { value: 'tested', label: 'what was found' },
          { value: 'at_least', label: 'at least' },
        ]"
      />
      <Field v-if="typeOptions.length" v-slot="{ id }" label="type" name="type">
        <ASelect :id v-model:value="now.types" mode="multiple" class="whole" :options="typeOptions" />
      </Field>
      <ChoiceField v-model="now.form" label="there as" name="form" :options="wordsOf('form')" />
      <TextField v-model="now.sow" label="packet: sow" name="sow" placeholder="Mar to May" />
      <TextField v-model="now.sprout" label="packet: days to come up" name="sprout" />
      <TextField v-model="now.harvest" label="packet: days to harvest" name="harvest" />
      <TextField v-model="now.code" label="code" name="code" />
      <TextField v-model="now.tags" label="tags" name="tags" placeholder="early, for Tam" />
      <ChoiceField v-model="now.intended_use" label="meant for" name="use" :options="page.uses" />
      <TextField v-model="now.note" class="wide" label="note" name="note" />
      <div class="wide row">
        <ACheckbox v-model:checked="now.hybrid">a hybrid</ACheckbox>
        <ACheckbox v-model:checked="now.treated">dressed</ACheckbox>
        <ACheckbox v-model:checked="now.kept_line">a line to keep</ACheckbox>
        <ACheckbox v-model:checked="now.crossed_risk">may have crossed</ACheckbox>
      </div>
      <p v-if="written.as_typed" class="wide small">
        Written down as: <strong>{{ written.as_typed }}</strong>
      </p>
      <p class="wide small soft">
        Kind, name, hybrid and dressing are those of this packet and of those split from it; a bag of several
        years: 22, 23, 24. Forecasts and labels follow; it can be undone.
      </p>
    </div>
  </ActForm>
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
.whole {
  width: 100%;
}
.wide {
  grid-column: 1 / -1;
  margin: 0;
}
@media (max-width: 600px) {
  .mend {
    grid-template-columns: 1fr;
  }
}
</style>
