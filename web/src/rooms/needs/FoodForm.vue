<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { computed, ref, watch } from 'vue'
import type { ChainLine } from '../../api/client'
import { useKinds, useProducts } from '../../api/queries'
import ActForm from '../../parts/ActForm.vue'
import { useWriting } from '../../parts/writing'
import { setFood, varietiesOf } from './acts'

/** A food that is wanted, so much of it a week; a product of one's own says what it is made of. */
const props = defineProps<{ changing?: ChainLine }>()
const products = useProducts()
const kinds = useKinds()
const { productUnit, productShown, productTyped } = useWriting()
const was = props.changing
const product = ref('')
const ownCrop = ref<string | null>(null)
const known = computed(() =>
  products.data.value?.find((p) => p.name === product.value.trim() || p.name === was?.product),
)
const measure = ref('')
const measures = computed(() => (was ? [] : (known.value?.measures ?? [])))
const inMeasure = computed(() => measures.value.find((m) => m.product === measure.value) ?? measures.value[0])
watch(known, () => (measure.value = ''))
const eaten = ref(was?.eaten_by ?? 'table')
const unit = computed(() =>
  eaten.value === 'shoots'
    ? 'g'
    : (was?.chain?.wanted.unit ?? inMeasure.value?.unit ?? known.value?.unit ?? ''),
)
const round = (x: number) => Math.round(100 * x) / 100
const perWeek = ref<number | null>(round(productShown(was?.per_week ?? 1, unit.value)))
const weeks = ref<number | null>(was?.weeks ?? 40)
const gifts = ref<number | null>(round(productShown(was?.gifts ?? 0, unit.value)))
const reserve = ref<number | null>(Math.round(100 * (was?.reserve_share ?? 0)))
const every = ref(was?.every_years ?? 1)
const sure = ref(was?.sure ?? 0.5)
// a household's own whole size: a litre, or a quart
const jarWas = was ? round(productShown(was.jar_litres, 'litres')) : 1
const jar = ref<number | null>(jarWas)
const name = computed(() => was?.name ?? product.value.trim())
const crop = computed(() => was?.crop ?? known.value?.crop ?? ownCrop.value ?? '')
const varieties = useQuery({
  queryKey: ['varieties', crop],
  queryFn: () => varietiesOf(crop.value),
  enabled: computed(() => crop.value !== ''),
})
const chosen = ref<number[]>(was?.shares.map((s) => s.variety_id) ?? [])
watch(crop, () => (chosen.value = []))
const splits = computed(() =>
  (varieties.data.value ?? []).map((v) => ({ value: v.variety_id, label: v.name || 'no name' })),
)
const more = ref<string[]>(
  was &&
    (was.gifts ||
      was.reserve_share ||
      was.every_years > 1 ||
      was.sure > 0.5 ||
      was.shares.length ||
      was.also.length)
    ? ['more']
    : [],
)
const EATEN = { table: 'people', animals: 'animals', shoots: 'people, as shoots of the seed itself' }
const YEARS = [
  { value: 1, label: 'every year' },
  { value: 2, label: 'every second year, for two' },
  { value: 3, label: 'every third year, for three' },
]
const SURE = [
  { value: 0.5, label: '5 years of ten' },
  { value: 0.8, label: '8 years of ten' },
  { value: 0.9, label: '9 years of ten' },
]
const typed = ref('')
const typeChoices = computed(() => was?.type_choices ?? known.value?.types ?? [])
const types = ref<string[]>([...(was?.chosen_types ?? [])])
/** Other kinds that it may be made of: dry beans of bush, climbing and runner beans. */
const also = ref<string[]>([...(was?.also ?? [])])
const asks = computed(() => (was ? was.types : (known.value?.asks ?? [])))
const offered = computed(() => {
  const wanted = typed.value
    .toLowerCase()
    .split(/[^\p{L}\p{N}]+/u)
    .filter(Boolean)
  return (products.data.value ?? [])
    .filter((p) => wanted.every((w) => ` ${p.words} ${p.name.toLowerCase()}`.includes(` ${w}`)))
    .slice(0, 20)
    .map((p) => ({ value: p.name, label: p.how ? `${p.name} · ${p.how}` : p.name }))
})
const crops = computed(() => (kinds.data.value ?? []).map((k) => ({ value: k.key, label: k.name })))
const words = () => `Wants ${perWeek.value} of ${name.value} a week`
const share = (variety_id: number) => ({
  variety_id,
  share: was?.shares.find((s) => s.variety_id === variety_id)?.share ?? 1,
})
const call = (anyway: boolean) =>
  setFood({
    anyway, also: also.value, types: typeChoices.value.length ? types.value.join(',') : null,
    product: was ? was.product : (inMeasure.value?.product ?? name.value), name: was ? name.value : '', crop: crop.value || null,
    per_week: productTyped(perWeek.value ?? 0, unit.value), weeks: weeks.value ?? 0, unit: '',
    gifts: productTyped(gifts.value ?? 0, unit.value), reserve_share: (reserve.value ?? 0) / 100,
    every_years: every.value, sure: sure.value, jar_litres: was && jar.value === jarWas ? was.jar_litres : productTyped(jar.value ?? 1, 'litres'), eaten_by: eaten.value,
    shares: chosen.value.map(share),
    target_id: was?.target_id ?? null, version: was?.version ?? null,
  }) // prettier-ignore
</script>

<template>
  <ActForm
    :title="changing ? changing.name : 'Add a food'"
    :submit="changing ? 'Save' : 'Add it'"
    :ready="name !== '' && perWeek !== null"
    :words
    :call
  >
    <Field v-if="!changing" v-slot="{ id }" label="what" name="food">
      <AAutoComplete
        :id
        v-model:value="product"
        class="wide"
        :options="offered"
        :default-active-first-option="false"
        placeholder="tomato sauce, sauerkraut, carrots, potato"
        @search="(text: string) => (typed = text)"
      />
      <span v-if="product.trim() && !offered.length && !known" class="soft small"
        >Not in the book: a food of your own.</span
      >
    </Field>
    <ChoiceField
      v-if="measures.length > 1"
      v-model="measure"
      label="measured in"
      name="measure"
      :none="measures[0]!.unit === 'kg' ? 'kilos' : measures[0]!.unit"
      :options="
        measures.slice(1).map((m) => ({ value: m.product, label: m.unit === 'kg' ? 'kilos' : m.unit }))
      "
    />
    <Field v-if="typeChoices.length > 1" v-slot="{ id }" label="of type" name="types">
      <ASelect
        :id
        v-model:value="types"
        mode="multiple"
        class="wide"
        :options="typeChoices.map((t) => ({ value: t.key, label: t.name }))"
        :placeholder="asks.length ? asks.join(', ') : 'any'"
      />
    </Field>
    <ChoiceField
      v-if="!changing && product && !known"
      v-model="ownCrop"
      label="our own product, made of"
      name="crop"
      :options="crops"
    />
    <div class="two">
      <NumberField
        v-model="perWeek"
        label="a week"
        name="per week"
        :unit="unit ? productUnit(unit) : 'jars, or units'"
        :min="0"
        :step="0.1"
      />
      <NumberField v-model="weeks" label="weeks of the year" name="weeks" whole :min="1" :max="53" />
    </div>
    <ACollapse v-model:active-key="more" ghost class="more">
      <ACollapsePanel key="more" header="Gifts, reserve, varieties and kinds, how surely">
        <div class="two">
          <NumberField
            v-model="gifts"
            label="to give away in the year"
            name="gifts"
            :unit="unit ? productUnit(unit) : undefined"
            :min="0"
          />
          <NumberField v-model="reserve" label="in reserve" name="reserve" unit="%" :min="0" :max="200" />
          <ChoiceField
            v-model="sure"
            label="plants enough in"
            name="years in which it is enough"
            :options="SURE"
            help="half of the years by default: yields swing from year to year"
          />
          <ChoiceField v-model="every" label="put up" name="put up every so many years" :options="YEARS" />
          <ChoiceField v-model="eaten" label="eaten by" name="eaten by" :options="EATEN" />
          <NumberField
            v-if="unit === 'jars'"
            v-model="jar"
            label="one jar holds"
            name="size of the jar"
            :unit="productUnit('litres')"
            :min="0.05"
            :max="10"
            :step="0.05"
          />
        </div>
        <Field v-slot="{ id }" label="or also of" name="also">
          <ASelect
            :id
            v-model:value="also"
            mode="multiple"
            class="wide"
            :options="crops.filter((c) => c.value !== crop)"
            option-filter-prop="label"
            placeholder="no other kind"
          />
        </Field>
        <Field v-if="splits.length > 1 || chosen.length" v-slot="{ id }" label="split over" name="variety">
          <ASelect
            :id
            v-model:value="chosen"
            mode="multiple"
            class="wide"
            :options="splits"
            option-filter-prop="label"
            placeholder="any variety in hand"
          />
        </Field>
      </ACollapsePanel>
    </ACollapse>
  </ActForm>
</template>

<style scoped>
.wide {
  width: 100%;
}
.two {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 0 14px;
}
.more :deep(.ant-collapse-header),
.more :deep(.ant-collapse-content-box) {
  padding: 4px 0;
}
@media (max-width: 480px) {
  .two {
    grid-template-columns: 1fr;
  }
}
</style>
