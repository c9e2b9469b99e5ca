<script setup lang="ts">
import { useRouter } from 'vue-router'
import type { Schemas } from '../../api/client'
import { useAct, useTakes } from '../../api/queries'
import { day, iso, many } from '../../parts/words'
import { beginStocktake } from './acts'
import RoomHead from '../../parts/RoomHead.vue'

/** Containers to go through: those begun first, then the longest untouched. */
const takes = useTakes()
const act = useAct()
const router = useRouter()
async function begin(c: Schemas['ToGoThrough']) {
  const done = await act.run(`Going through ${c.name}`, () => beginStocktake(c.node_id))
  if (done) router.push(`/stock/stocktake/${done.result.stocktake_id}`)
}
</script>

<template>
  <section>
    <RoomHead title="Stocktake" back="Stock" to="/stock">
      <span class="soft">One container after the other; leave off whenever you like.</span>
    </RoomHead>
    <RoomState :query="takes" />
    <div v-if="takes.data.value && !takes.data.value?.length" class="card">
      Nothing stands in a place yet. <RouterLink to="/stock/add">Add seeds</RouterLink> and say where they
      are.
    </div>
    <ul v-else class="list">
      <li v-for="c in takes.data.value" :key="c.node_id">
        <div>
          <span class="name">{{ c.name }}</span>
          <div class="small soft">
            {{ c.path }} · {{ many(c.lots, 'packet') }} ·
            <span v-if="c.last_s" :title="iso(c.last_s)">last gone through {{ day(c.last_s, true) }}</span>
            <span v-else>never gone through</span>
            <strong v-if="c.open_id" class="act"> · begun, {{ c.done }} looked at</strong>
          </div>
        </div>
        <AButton type="primary" :ghost="!c.open_id" @click="begin(c)">
          {{ c.open_id ? 'Go on' : 'Go through it' }}
        </AButton>
      </li>
    </ul>
  </section>
</template>

<style scoped>
.list {
  list-style: none;
  padding: 0;
  margin: 0;
  max-width: 760px;
}
.list li {
  display: flex;
  justify-content: space-between;
  gap: 12px;
  align-items: center;
  border-top: 1px solid var(--hair-soft);
  padding: 8px 0;
}
</style>
