<script setup lang="ts">
import { computed, reactive, watch } from 'vue'
import { useHome } from '../../api/queries'
import ActForm from '../../parts/ActForm.vue'
import UsualPlace from '../../parts/fields/UsualPlace.vue'
import { monthNames } from '../../parts/words'
import { changeHousehold } from './acts'

/** How the household writes its measures and dates, and what it reckons with. */
const home = useHome()
const h = computed(() => home.data.value?.household)
const form = reactive({
  name: '', temperature_unit: 'C', mass_unit: 'g', volume_unit: 'l', length_unit: 'm', locale: 'en-GB',
  first_weekday: 1, crop_names: 'gb', currency: '', page_size: 'A4', hemisphere: 'north', frost_free: false,
  sow_months: [] as number[], last: '', first: '', tz: '', code_scheme: 'letter', address: '',
  unplaced_kind: 'inner_cupboard', unplaced_wrapper: 'paper_envelope', sow: 70 as number | null, confidence: 90 as number | null, lead: 21 as number | null,
}) // prettier-ignore
const TEMPERATURE = { C: 'degrees Celsius, °C', F: 'degrees Fahrenheit, °F' }
const MASS = { g: 'grams and kilos', oz: 'ounces and pounds' }
const VOLUME = { l: 'litres', qt: 'quarts, pints and cups' }
const LENGTH = { m: 'metres and centimetres', ft: 'feet and inches' }
const LOCALE = {
  'en-GB': '1,500.5 and 31/12/2026',
  'en-US': '1,500.5 and 12/31/2026',
  'de-DE': '1.500,5 and 31.12.2026',
}
const WEEK = [
  { value: 1, label: 'Monday' },
  { value: 0, label: 'Sunday' },
  { value: 6, label: 'Saturday' },
]
const NAMES = { gb: 'aubergine, courgette, swede', us: 'eggplant, zucchini, rutabaga' }
const HEMISPHERE = { north: 'north of the equator', south: 'south of the equator' }
const CODES = {
  letter: 'the kind’s letter and a number: B12',
  kind: 'three letters and a number: BEA12',
  number: 'plain numbers: 117',
  spoken: 'a word one can say: RUMA',
}
const MONTHS = monthNames().map((label, i) => ({ value: i + 1, label }))
const DAY_MS = 86_400_000
const date = (n: number | null | undefined) =>
  n ? new Date(Date.UTC(2025, 0, n)).toISOString().slice(0, 10) : ''
const dayOfYear = (iso: string) =>
  iso ? Math.round((Date.parse(`2025${iso.slice(4)}`) - Date.UTC(2025, 0, 1)) / DAY_MS) + 1 : null
watch(
  h,
  (x) => {
    if (!x) return
    for (const key of Object.keys(form) as (keyof typeof form)[])
      if (key in x) Object.assign(form, { [key]: x[key as keyof typeof x] })
    form.frost_free = Boolean(x.frost_free)
    form.sow_months = (x.sow_months ?? '').split(',').filter(Boolean).map(Number)
    form.sow = Math.round(100 * (x.sow_level ?? 0.7))
    form.confidence = Math.round(100 * (x.confidence ?? 0.9))
    form.lead = x.order_lead_days ?? 21
    form.last = date(x.last_frost_day)
    form.first = date(x.first_frost_day)
  },
  { immediate: true },
)
const call = () => {
  const { sow, confidence, lead, last, first, frost_free, sow_months, ...plain } = form
  return changeHousehold(
    {
      ...plain,
      frost_free: Number(frost_free),
      sow_months: sow_months.join(','),
      sow_level: (sow ?? 70) / 100,
      confidence: (confidence ?? 90) / 100,
      order_lead_days: lead ?? 0,
      last_frost_day: frost_free ? null : dayOfYear(last),
      first_frost_day: frost_free ? null : dayOfYear(first),
    },
    h.value?.version,
  )
}
</script>

<template>
  <ActForm submit="Save" again :words="() => 'Changed the household'" :call>
    <h2>How we write</h2>
    <div class="fields">
      <TextField v-model="form.name" label="name of the household" name="name" />
      <ChoiceField v-model="form.temperature_unit" label="temperatures in" :options="TEMPERATURE" />
      <ChoiceField v-model="form.mass_unit" label="weights in" :options="MASS" />
      <ChoiceField v-model="form.volume_unit" label="volumes in" :options="VOLUME" />
      <ChoiceField v-model="form.length_unit" label="lengths in" :options="LENGTH" />
      <ChoiceField v-model="form.locale" label="numbers and days" name="locale" :options="LOCALE" />
      <ChoiceField v-model="form.first_weekday" label="the week begins on" :options="WEEK" />
      <ChoiceField v-model="form.crop_names" label="crops are called" :options="NAMES" />
      <TextField v-model="form.currency" label="money, as you write it" name="currency" />
      <ChoiceField v-model="form.page_size" label="paper" :options="['A4', 'Letter']" />
      <ChoiceField v-model="form.code_scheme" label="codes of new packets" :options="CODES" />
      <TextField
        v-model="form.address"
        label="where a scanned label leads"
        name="address"
        placeholder="this address"
      />
    </div>
    <h2>Where we live</h2>
    <div class="fields">
      <ChoiceField v-model="form.hemisphere" label="we live" :options="HEMISPHERE" />
      <TextField v-model="form.tz" label="time zone" />
      <ACheckbox v-model:checked="form.frost_free" class="tick">no frost here</ACheckbox>
      <template v-if="!form.frost_free">
        <DateField v-model="form.last" label="last frost, about" name="last frost" shown="D MMM" />
        <DateField v-model="form.first" label="first frost, about" name="first frost" shown="D MMM" />
      </template>
      <Field
        v-else
        v-slot="{ id }"
        label="sown in (the rains, or as is usual with you)"
        name="months of sowing"
      >
        <ASelect
          :id
          v-model:value="form.sow_months"
          mode="multiple"
          :options="MONTHS"
          placeholder="any month"
        />
      </Field>
    </div>
    <h2>What we reckon with</h2>
    <div class="fields">
      <UsualPlace v-model:place="form.unplaced_kind" v-model:wrapper="form.unplaced_wrapper" />
      <NumberField
        v-model="form.sow"
        label="you sow as usual from"
        unit="% germination"
        whole
        :min="5"
        :max="99"
      />
      <NumberField
        v-model="form.confidence"
        label="enough plants in so many years of a hundred"
        unit="of 100"
        whole
        :min="50"
        :max="99"
      />
      <NumberField
        v-model="form.lead"
        label="days between ordering and sowing"
        unit="days"
        whole
        :min="0"
        :max="365"
      />
    </div>
  </ActForm>
</template>

<style scoped>
.fields {
  display: grid;
  grid-template-columns: repeat(auto-fill, minmax(230px, 1fr));
  gap: 4px 16px;
  align-items: end;
}
.tick {
  align-self: center;
}
h2 {
  margin: 12px 0 6px;
}
</style>
