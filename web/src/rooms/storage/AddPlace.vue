<script setup lang="ts">
import { computed, ref } from 'vue'
import type { Box } from '../../api/client'
import { useStorageKinds } from '../../api/queries'
import SinceField from '../../parts/fields/SinceField.vue'
import ActForm from '../../parts/ActForm.vue'
import { addNode } from './acts'

const props = defineProps<{ all: Box[] }>()
const kinds = useStorageKinds()
const what = ref<'place' | 'container'>('place')
const name = ref('')
// chosen by what people call it; the kind is what is reckoned with
const placeCalled = ref<string>('larder|larder')
const containerCalled = ref<string>('metal_tin_plain|biscuit tin')
const place = computed(() => placeCalled.value.split('|')[0] ?? '')
const container = computed(() => containerCalled.value.split('|')[0] ?? '')
const called = (of: Record<string, string> | undefined) =>
  Object.keys(of ?? {})
    .flatMap((kind) =>
      (kinds.data.value?.names[kind] ?? [kind]).map((n) => ({
        label: n,
        value: `${kind}|${n}`,
        group: kinds.data.value?.groups[kind] ?? '',
      })),
    )
    .sort((a, b) => a.group.localeCompare(b.group) || a.label.localeCompare(b.label))
const parent = ref<number | null>(props.all[0]?.node_id ?? null)
const room = ref<number | null>(null)
const former = ref('')
const since = ref('')
const about = computed(() =>
  what.value === 'place'
    ? kinds.data.value?.places[place.value]
    : kinds.data.value?.containers[container.value],
)
const words = () => `Added ${name.value}`
function call(anyway: boolean) {
  const inside = what.value === 'container'
  return addNode({
    name: name.value,
    place_kind: inside ? null : place.value,
    container_kind: inside ? container.value : null,
    parent_id: inside ? parent.value : null,
    capacity_lots: room.value,
    former_use: former.value || null,
    since: inside ? since.value : '',
    anyway,
  })
}
</script>

<template>
  <ActForm title="Add a place or a container" submit="Add" :ready="name.trim() !== ''" :words :call>
    <ARadioGroup v-model:value="what" aria-label="What">
      <ARadio value="place">a place: room, cellar, freezer</ARadio>
      <ARadio v-if="all.length" value="container">a container in it: tin, jar, box</ARadio>
    </ARadioGroup>
    <TextField v-model="name" label="name" placeholder="Stone larder" />
    <ChoiceField
      v-if="what === 'place'"
      v-model="placeCalled"
      label="kind of place"
      :options="called(kinds.data.value?.places)"
    />
    <template v-else>
      <ChoiceField
        v-model="containerCalled"
        label="kind of container"
        :options="called(kinds.data.value?.containers)"
      />
      <PlaceField v-model="parent" label="stands in" all />
      <SinceField v-model="since" placeholder="as long as you know it" />
      <NumberField v-model="room" label="room for how many packets, if you like" name="room" whole :min="1" />
      <TextField v-model="former" label="what did it hold before?" name="former use" placeholder="biscuits" />
    </template>
    <p class="small soft">{{ about }}</p>
  </ActForm>
</template>
