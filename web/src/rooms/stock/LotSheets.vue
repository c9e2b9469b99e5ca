<script setup lang="ts">
import { computed } from 'vue'
import type { Schemas } from '../../api/client'
import StartTest from '../trials/StartTest.vue'
import AsideForm from './forms/AsideForm.vue'
import BookForm from './forms/BookForm.vue'
import EventForm from './forms/EventForm.vue'
import { called } from './forms/lots'
import MendForm from './forms/MendForm.vue'
import MoveForm from './forms/MoveForm.vue'
import PickForm from './forms/PickForm.vue'
import PourForm from './forms/PourForm.vue'
import SowForm from './forms/SowForm.vue'
import SplitForm from './forms/SplitForm.vue'
import WeighForm from './forms/WeighForm.vue'

/** The sheets of one packet's page: whichever the address names. */
export type Asking =
  | '' | 'test' | 'count' | 'move' | 'event' | 'pick' | 'sow' | 'edit' | 'split' | 'pour' | 'aside' | 'weigh' // prettier-ignore
const props = defineProps<{ page: Schemas['LotPage'] }>()
const asking = defineModel<string>('asking', { required: true })
const MANY = { move: MoveForm, sow: SowForm, pick: PickForm, event: EventForm } as const
const ONE = { count: BookForm, split: SplitForm, pour: PourForm, weigh: WeighForm } as const
const many = computed(() => MANY[asking.value as keyof typeof MANY])
const one = computed(() => ONE[asking.value as keyof typeof ONE])
const lot = computed(() => props.page.line)
const close = () => (asking.value = '')
</script>

<template>
  <component :is="many" v-if="many" :lots="[lot]" @close="close" />
  <component :is="one" v-else-if="one" :lot @close="close" />
  <AsideForm v-else-if="asking === 'aside'" :lot :uses="page.uses" @close="close" />
  <MendForm v-else-if="asking === 'edit'" :page @close="close" />
  <StartTest v-else-if="asking === 'test'" :lot-id="lot.lot_id" :name="called([lot])" @close="close" />
</template>
