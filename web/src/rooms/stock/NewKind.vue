<script setup lang="ts">
import { computed, ref } from 'vue'
import { useKinds } from '../../api/queries'
import ActForm from '../../parts/ActForm.vue'
import { addKind } from './acts'

const props = defineProps<{ name: string }>()
const emit = defineEmits<{ added: [] }>()
const kinds = useKinds()
const SEASONS = [
  { value: 'cool' as const, label: 'cool season' },
  { value: 'warm' as const, label: 'warm season' },
  { value: 'herb' as const, label: 'herbs' },
  { value: 'flower' as const, label: 'flowers' },
  { value: 'cover' as const, label: 'cover and grain' },
]
const relative = ref<string | null>(null)
const season = ref<(typeof SEASONS)[number]['value']>('cool')
const relatives = computed(() =>
  (kinds.data.value ?? []).filter((k) => k.known).map((k) => ({ value: k.key, label: k.name })),
)
const call = () => addKind({ name: props.name, stand_in: relative.value, season: season.value })
</script>

<template>
  <ActForm
    class="card stranger"
    inline
    quiet
    :submit="`Add ${name} as a kind`"
    :words="() => `Added the kind ${name}`"
    :call
    @done="emit('added')"
  >
    <p>
      <strong>{{ name }}</strong> is not in the tables. Kept as unknown, or add it as a kind of your own:
    </p>
    <ChoiceField
      v-model="relative"
      label="nearest relative, if you know one"
      :options="relatives"
      none="none: a wide guess"
    />
    <ChoiceField v-model="season" label="kept with" :options="SEASONS" />
    <p class="small soft">Hazards of such a kind are unknown: it counts as not edible.</p>
  </ActForm>
</template>

<style scoped>
.stranger {
  margin: 8px 0;
  background: var(--act-wash);
}
</style>
