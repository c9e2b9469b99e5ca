<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { computed, ref } from 'vue'
import type { Schemas } from '../../api/client'
import { useAct } from '../../api/queries'
import RoomHead from '../../parts/RoomHead.vue'
import { many } from '../../parts/words'
import { allStars, star, unstar } from './acts'

/** What is grown this year for its own sake: one touch a packet. */
const found = useQuery({ queryKey: ['stars'], queryFn: allStars })
const act = useAct()
const text = ref('')
const plants = ref<number | null>(12)
type Star = Schemas['Star']
const starred = computed(() => (found.data.value ?? []).filter((s) => s.pick_id !== null).length)
const shown = computed(() => {
  const asked = text.value.trim().toLowerCase()
  const all = found.data.value ?? []
  if (!asked) return all
  return all.filter((s) => `${s.code} ${s.variety} ${s.kind_name}`.toLowerCase().includes(asked))
})
const toggle = (s: Star) =>
  s.pick_id
    ? act.run(`${s.code} ${s.variety} is not grown this year`, () => unstar(s.pick_id!), true)
    : act.runAsking(
        `${s.code} ${s.variety} is grown this year`,
        (anyway) => star(s.lot_id, plants.value ?? 12, anyway),
        true,
      )
</script>

<template>
  <section>
    <RoomHead title="Grown this year" back="Needs" to="/needs">
      <span class="soft">{{ starred ? `${many(starred, 'packet')} starred.` : 'Touch a star.' }}</span>
      <span class="spring" />
      <RouterLink class="btn quiet" to="/needs/fetch">Fetch the seed</RouterLink>
    </RoomHead>
    <div class="row tools">
      <AInput v-model:value="text" placeholder="kind, name or code" aria-label="find a packet" allow-clear />
      <NumberField v-model="plants" label="plants of each" name="plants" count />
    </div>
    <RoomState :query="found" />
    <ul>
      <li v-for="s in shown" :key="s.lot_id" :data-code="s.code">
        <AButton
          type="text"
          class="star"
          :aria-pressed="s.pick_id !== null"
          :aria-label="`grow ${s.code} ${s.variety} this year`"
          @click="toggle(s)"
        >
          {{ s.pick_id !== null ? '★' : '☆' }}
        </AButton>
        <span>
          <span class="code">{{ s.code }}</span> {{ s.variety }} <span class="soft">{{ s.kind_name }}</span>
          <span class="small soft says">{{ s.pick_id !== null ? many(s.plants, 'plant') : s.next_act }}</span>
        </span>
      </li>
    </ul>
    <p v-if="found.data.value && !shown.length" class="soft">No packet is called so.</p>
  </section>
</template>

<style scoped>
.tools {
  display: grid;
  grid-template-columns: 1fr 150px;
  gap: 12px;
  align-items: end;
  max-width: 640px;
}
.tools :deep(.ant-form-item) {
  margin: 0;
}
ul {
  list-style: none;
  padding: 0;
  columns: 2;
  column-gap: 28px;
}
li {
  display: flex;
  gap: 8px;
  align-items: center;
  break-inside: avoid;
  border-top: 1px solid var(--hair-soft);
}
.star {
  width: 48px;
  height: 48px;
  flex: none;
  padding: 0;
  color: var(--act);
  font-size: 24px;
}
.says {
  display: block;
}
@media (max-width: 700px) {
  ul {
    columns: 1;
  }
}
</style>
