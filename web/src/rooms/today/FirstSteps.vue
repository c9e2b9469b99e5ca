<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { ref } from 'vue'
import { api, take } from '../../api/client'
import { useAct, useHome } from '../../api/queries'

defineProps<{ lots: number; foods: number }>()
const home = useHome()
const act = useAct()
const southern = ref(false)
const places = useQuery({
  queryKey: ['living'],
  queryFn: () => take(api.GET('/api/household/places')),
  staleTime: Infinity,
})
const settle = (key: string, words: string) =>
  act.run(`We live here: ${words.toLowerCase()}`, () =>
    take(api.POST('/api/household/settle', { body: { living: key, southern: southern.value } })),
  )
</script>

<template>
  <div class="steps">
    <div class="card step">
      <h2>Where do you live?</h2>
      <template v-if="!home.data.value?.household.settled">
        <p>
          One tap, and every forecast has a climate to lean on: the usual one of such a place. A guess, and
          marked as one.
        </p>
        <div class="row">
          <button
            v-for="p in places.data.value"
            :key="p.key"
            class="btn quiet"
            type="button"
            @click="settle(p.key, p.words)"
          >
            {{ p.words }}
          </button>
        </div>
        <label class="small"><input v-model="southern" type="checkbox" /> south of the equator</label>
      </template>
      <p v-else class="soft">
        Noted. Frost dates and the rest can be changed in <RouterLink to="/papers">Papers</RouterLink>.
      </p>
    </div>
    <div class="card step">
      <h2>What lies in the first tin?</h2>
      <p v-if="!lots">
        Type ten packets as they come: kind, name, year if it says one. Nothing else is needed.
      </p>
      <p v-else>
        {{ lots }} {{ lots === 1 ? 'lot' : 'lots' }} written down.
        <RouterLink to="/stock">See how long they keep.</RouterLink>
      </p>
      <RouterLink class="btn" to="/stock/add">Type in packets</RouterLink>
    </div>
    <div class="card step">
      <h2>Then, when you like</h2>
      <p>
        <RouterLink to="/storage">Name a place and read a dial</RouterLink>: the guess becomes a
        measurement.<br />
        <RouterLink to="/needs">Name a food</RouterLink>: the list says what is short.<br />
        <RouterLink to="/tests">Test what is worth testing</RouterLink>: the forecast learns.
      </p>
    </div>
  </div>
</template>

<style scoped>
.steps {
  display: grid;
  grid-template-columns: repeat(3, 1fr);
  gap: 16px;
  margin-bottom: 18px;
}
.step h2 {
  margin-bottom: 6px;
}
.step .row {
  margin-bottom: 8px;
}
.step .btn {
  white-space: normal;
  text-align: left;
}
@media (max-width: 900px) {
  .steps {
    grid-template-columns: 1fr;
  }
}
</style>
