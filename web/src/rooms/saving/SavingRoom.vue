<script setup lang="ts">
import { useSaving } from '../../api/queries'

const saving = useSaving()
</script>

<template>
  <section>
    <div class="lead">
      <h1>Saving</h1>
      <span class="soft"
        >What the book asks for each line you keep: mothers, distance, cleaning, drying.</span
      >
    </div>
    <template v-if="saving.isPending.value"><div v-for="i in 6" :key="i" class="skeleton" /></template>
    <div v-else-if="saving.isError.value" class="card">{{ saving.error.value?.message }}</div>
    <p v-else-if="!saving.data.value?.length" class="soft">
      No line is kept yet. On a lot’s page, “Keep this line alive” puts it here.
    </p>
    <table v-else class="plain stack">
      <thead>
        <tr>
          <th>line</th>
          <th>mothers</th>
          <th>apart</th>
          <th>could cross here with</th>
          <th>picking and cleaning</th>
          <th>drying</th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="s in saving.data.value" :key="s.variety">
          <td>
            <RouterLink :to="`/stock/${s.lot_ids[0]}`" class="name">{{ s.variety }}</RouterLink>
            <div class="small soft">{{ s.kind_name }} · {{ s.lots.join(' + ') }}</div>
          </td>
          <td data-label="mothers">
            {{ s.mothers_least }}, better {{ s.mothers_good }}
            <div v-if="s.seasons > 1" class="small soft">two seasons</div>
          </td>
          <td data-label="apart">
            {{ s.isolation_home_m }} m, strictly {{ s.isolation_strict_m }} m
            <div class="small soft">
              {{ s.pollination === 'self' ? 'pollinates itself' : `by ${s.pollination}` }}
            </div>
          </td>
          <td data-label="could cross with">{{ s.crosses_with.join(', ') || 'nothing in your stock' }}</td>
          <td data-label="cleaning">
            {{ s.method }}
            <div class="small soft">
              about {{ s.ripe_after_days }} days after eating stage; {{ s.seed_g_per_plant }} g a plant
            </div>
          </td>
          <td data-label="drying">{{ s.drying_days }} days in moving air, under 35 °C</td>
        </tr>
      </tbody>
    </table>
    <p class="small soft">
      Dust when winnowing: mind eyes and lungs. Hot peppers: gloves. Sick mother plants pass it on. Distances
      below the book’s warn, they do not forbid.
    </p>
  </section>
</template>
