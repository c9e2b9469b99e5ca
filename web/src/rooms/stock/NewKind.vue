<script setup lang="ts">
import { ref } from 'vue'
import { api, take } from '../../api/client'
import { useAct, useKinds } from '../../api/queries'

const props = defineProps<{ name: string }>()
const emit = defineEmits<{ added: [] }>()
const act = useAct()
const kinds = useKinds()
const relative = ref('')
const season = ref<'cool' | 'warm' | 'herb' | 'flower' | 'cover'>('cool')
async function add() {
  const stand = kinds.data.value?.find((k) => k.name === relative.value && k.known)?.key ?? null
  const body = { name: props.name, stand_in: stand, season: season.value }
  if (await act.run(`Added the kind ${props.name}`, () => take(api.POST('/api/kinds', { body }))))
    emit('added')
}
</script>

<template>
  <div class="card stranger">
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
      <button class="btn quiet" type="button" @click="add">Add {{ name }} as a kind</button>
    </div>
    <p class="small soft">Hazards of such a kind are unknown: it counts as not edible.</p>
  </div>
</template>

<style scoped>
.stranger {
  margin: 8px 0;
  background: var(--act-wash);
}
</style>
