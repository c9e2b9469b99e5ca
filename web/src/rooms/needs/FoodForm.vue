<script setup lang="ts">
import { computed, ref } from 'vue'
import type { ChainLine } from '../../api/client'
import { useKinds, useProducts } from '../../api/queries'
import ActForm from '../../parts/ActForm.vue'
import { useWriting } from '../../parts/writing'
import { setFood } from './acts'

/** A food that is wanted, so much of it a week; a product of one's own says what it is made of. */
const props = defineProps<{ changing?: ChainLine }>()
const products = useProducts()
const kinds = useKinds()
const { productUnit, productShown, productTyped } = useWriting()
const product = ref('')
const ownCrop = ref<string | null>(null)
const known = computed(() => products.data.value?.find((p) => p.name === product.value.trim()))
const unit = computed(() => props.changing?.chain?.wanted.unit ?? known.value?.unit ?? '')
const perWeek = ref<number | null>(
  Math.round(100 * productShown(props.changing?.per_week ?? 1, unit.value)) / 100,
)
const weeks = ref<number | null>(props.changing?.weeks ?? 40)
const typed = ref('')
const offered = computed(() => {
  const wanted = typed.value.toLowerCase()
  return (products.data.value ?? [])
    .filter((p) => `${p.name} ${p.how}`.toLowerCase().includes(wanted))
    .slice(0, 14)
    .map((p) => ({ value: p.name, label: p.how ? `${p.name} · ${p.how}` : p.name }))
})
const crops = computed(() => (kinds.data.value ?? []).map((k) => ({ value: k.key, label: k.name })))
const name = computed(() => props.changing?.name ?? product.value.trim())
const words = () => `Wants ${perWeek.value} of ${name.value} a week`
const call = () =>
  setFood({
    product: name.value, name: props.changing ? name.value : '',
    crop: props.changing ? props.changing.crop : known.value ? null : ownCrop.value,
    per_week: productTyped(perWeek.value ?? 0, unit.value), weeks: weeks.value ?? 0,
    unit: '', gifts: 0, reserve_share: 0,
    target_id: props.changing?.target_id ?? null, version: props.changing?.version ?? null,
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
        placeholder="tomato sauce, sauerkraut, carrots"
        @search="(text: string) => (typed = text)"
      />
    </Field>
    <ChoiceField
      v-if="!changing && product && !known"
      v-model="ownCrop"
      label="our own product, made of"
      name="crop"
      :options="crops"
    />
    <div class="row">
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
  </ActForm>
</template>

<style scoped>
.wide {
  width: 100%;
}
</style>
