<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { ref } from 'vue'
import { api, take } from '../../api/client'
import { useAct, useHome } from '../../api/queries'
import { many } from '../../parts/words'
import UsualPlace from '../../parts/fields/UsualPlace.vue'
import { changeHousehold, settle as saySettled } from './acts'

defineProps<{ lots: number; foods: number }>()
const home = useHome()
const act = useAct()
const southern = ref(false)
const places = useQuery({
  queryKey: ['living'],
  queryFn: () => take(api.GET('/api/household/places')),
  staleTime: Infinity,
})
const place = ref('inner_cupboard')
const wrapper = ref('paper_envelope')
const usual = () =>
  act.run('Said where seed usually lies', () =>
    changeHousehold({ unplaced_kind: place.value, unplaced_wrapper: wrapper.value }),
  )
const settle = (key: string, words: string) =>
  act.run(`We live here: ${words.toLowerCase()}`, () => saySettled(key, southern.value))
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
          <AButton
            v-for="p in places.data.value"
            :key="p.key"
            type="primary"
            ghost
            @click="settle(p.key, p.words)"
          >
            {{ p.words }}
          </AButton>
        </div>
        <ACheckbox v-model:checked="southern" class="small">south of the equator</ACheckbox>
      </template>
      <p v-else class="soft">
        Noted.
        <template v-if="home.data.value?.household.frost_free && !home.data.value.household.sow_months">
          Without frost your own months say when it is sown:
          <RouterLink to="/papers?tab=house">name them</RouterLink>.
        </template>
        <template v-else>
          Frost dates and the rest can be changed in <RouterLink to="/papers?tab=house">Papers</RouterLink>.
        </template>
      </p>
    </div>
    <div v-if="!home.data.value?.household.unplaced_told" class="card step">
      <h2>Where did it lie until now?</h2>
      <p>
        What you write down today lay somewhere before. Where seed usually lies with you; said once, and of
        any packet you can say more.
      </p>
      <div class="row">
        <UsualPlace v-model:place="place" v-model:wrapper="wrapper" />
      </div>
      <AButton type="primary" ghost @click="usual">It lies there</AButton>
    </div>
    <div class="card step">
      <h2>What lies in the first tin?</h2>
      <p v-if="!lots">
        Type ten packets as they come: kind, name, year if it says one. Nothing else is needed.
      </p>
      <p v-else>
        {{ many(lots, 'packet') }} written down.
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
.step {
  min-width: 0;
}
.step .ant-btn {
  height: auto;
  white-space: normal;
  text-align: start;
}
.steps {
  display: grid;
  grid-template-columns: repeat(auto-fit, minmax(240px, 1fr));
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
