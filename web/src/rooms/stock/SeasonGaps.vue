<script setup lang="ts">
import { ref } from 'vue'
import { useGaps } from '../../api/queries'

/** What can be sown month by month from what is in hand; gaps need no target. */
const gaps = useGaps()
const open = ref(false)
</script>

<template>
  <span v-if="gaps.data.value" class="gaps">
    <button class="btn link small" type="button" :aria-expanded="open" @click="open = !open">
      {{ gaps.data.value.says[0] ?? 'Sowing months' }}
    </button>
    <div v-if="open" class="card panel" role="dialog" aria-label="What can be sown, month by month">
      <p v-for="s in gaps.data.value.says" :key="s" class="act">{{ s }}</p>
      <table class="plain small">
        <tbody>
          <tr v-for="m in gaps.data.value.months" :key="m.month">
            <th>{{ m.month }}</th>
            <td>{{ m.lots || 'none' }}</td>
            <td class="soft">
              {{ m.kinds.slice(0, 7).join(', ')
              }}{{ m.kinds.length > 7 ? ` and ${m.kinds.length - 7} more` : '' }}
            </td>
          </tr>
        </tbody>
      </table>
      <p class="small soft">
        Lots in hand, meant for seed and above the level you sow at; windows from your frost dates and the
        book.
      </p>
    </div>
  </span>
</template>

<style scoped>
.gaps {
  position: relative;
}
.panel {
  position: absolute;
  right: 0;
  top: 30px;
  z-index: 20;
  width: min(560px, 92vw);
  max-height: 70vh;
  overflow: auto;
}
</style>
