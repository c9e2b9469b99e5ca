<script setup lang="ts">
import { computed, ref } from 'vue'
import type { Schemas } from '../../api/client'
import ActForm from '../../parts/ActForm.vue'
import { wordsOf } from '../../parts/words'
import { sayOffer } from './acts'

/** A packet that somebody saw offered, typed in. */
const props = defineProps<{ sellers: Schemas['SellerLine'][]; currency: string }>()
const seller = ref(props.sellers[0]?.name ?? '')
const kind = ref('')
const variety = ref('')
const form = ref('')
const seeds = ref<number | null>(null)
const price = ref<number | null>(null)
const stated = ref<number | null>(null)
const postage = ref<number | null>(null)
const days = ref<number | null>(null)
const known = computed(() => props.sellers.some((s) => s.name === seller.value.trim()))
const words = () => `${seller.value} offers ${variety.value || kind.value}`
const call = () =>
  sayOffer({
    seller: seller.value, kind: kind.value, variety: variety.value, pack_seeds: seeds.value ?? 0,
    price: price.value ?? 0, stated_germination: stated.value === null ? null : stated.value / 100,
    hybrid: false, packs_left: null, postage: postage.value, lead_days: days.value, form: form.value,
  }) // prettier-ignore
</script>

<template>
  <ActForm
    title="A packet that is offered"
    submit="Put it down"
    :ready="seller.trim() !== '' && kind.trim() !== '' && seeds !== null && price !== null"
    :words
    :call
  >
    <div class="two">
      <TextField v-model="seller" label="seller" name="seller" />
      <KindField v-model="kind" />
      <TextField v-model="variety" label="variety" name="variety" />
      <ChoiceField
        v-model="form"
        label="sold as"
        name="form"
        none="as its words say"
        :options="wordsOf('form')"
      />
      <NumberField v-model="seeds" label="seeds in the packet" name="seeds in the packet" count />
      <NumberField
        v-model="price"
        label="price"
        name="price"
        :unit="currency || undefined"
        :min="0"
        :step="0.1"
      />
      <NumberField
        v-model="stated"
        label="stated germination"
        name="stated germination"
        unit="%"
        :min="1"
        :max="100"
      />
      <template v-if="!known">
        <NumberField v-model="postage" label="postage" name="postage" :min="0" :step="0.1" />
        <NumberField
          v-model="days"
          label="days until it comes"
          name="days until it comes"
          whole
          :min="0"
          :max="365"
        />
      </template>
    </div>
  </ActForm>
</template>

<style scoped>
.two {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 0 12px;
}
@media (max-width: 600px) {
  .two {
    grid-template-columns: 1fr;
  }
}
</style>
