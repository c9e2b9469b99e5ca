<script setup lang="ts">
import { ref } from 'vue'
import { useAct } from '../../api/queries'
import { bringPackets } from './acts'

/** A spreadsheet of packets comes in, all of it or nothing; what was assumed is said. */
const act = useAct()
const node = ref<number | null>(null)
const assumed = ref<string[]>([])
async function bring(file: File) {
  const done = await act.run(`Brought in ${file.name}`, () => bringPackets(file, node.value))
  assumed.value = (done?.result.assumed as string[] | undefined) ?? []
}
</script>

<template>
  <div>
    <h2>Bring in</h2>
    <p>
      A spreadsheet of packets, saved as CSV, as you keep it: columns such as kind, variety, year, quantity,
      from, note in any order. All of it comes in, or nothing.
    </p>
    <div class="two">
      <PlaceField v-model="node" label="they stand in" none="not said" />
      <FilePick words="Choose the file" accept=".csv,text/csv,text/plain" drop @file="bring" />
    </div>
    <div v-if="assumed.length" class="card small" role="status">
      <strong>What was assumed</strong>
      <ul>
        <li v-for="a in assumed" :key="a">{{ a }}</li>
      </ul>
    </div>
    <p class="small soft">
      A logger’s file goes to its container: <RouterLink to="/storage">Storage</RouterLink>. A parcel’s file:
      <RouterLink to="/papers/parcels">Giving away</RouterLink>.
    </p>
  </div>
</template>

<style scoped>
.two {
  display: grid;
  grid-template-columns: minmax(200px, 300px) minmax(220px, 420px);
  gap: 14px;
  align-items: end;
  margin-bottom: 10px;
}
@media (max-width: 760px) {
  .two {
    grid-template-columns: 1fr;
  }
}
</style>
