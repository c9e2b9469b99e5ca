<script setup lang="ts">
import { useRoute } from 'vue-router'

const route = useRoute()
</script>

<template>
  <section>
    <h1>There is no such page</h1>
    <p>
      Nothing stands at <code>{{ route.path }}</code>. Perhaps the address was cut short, or the packet was
      let go.
    </p>
    <p class="row">
      <RouterLink class="btn" to="/today">To Today</RouterLink>
      <RouterLink class="btn plain" to="/stock">To Stock</RouterLink>
    </p>
  </section>
</template>
