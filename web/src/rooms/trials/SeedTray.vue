<script setup lang="ts">
import { computed } from 'vue'
import { word } from '../../parts/words'
import { NAMES } from './seeds'

/** The seeds of a test as they were laid, in rows of five: tapped, each is what the answer says. */
const props = defineProps<{ seeds: string; answer: string }>()
const emit = defineEmits<{ set: [index: number] }>()
const rows = computed(() => {
  const out: { at: number; letter: string }[][] = []
  ;[...props.seeds].forEach((letter, at) => {
    if (at % 5 === 0) out.push([])
    out[out.length - 1]!.push({ at, letter })
  })
  return out
})
const said = (letter: string) =>
  ({ w: 'not yet', u: 'up', c: 'just cracked' })[letter] ?? word('seed_in_test', NAMES[letter] ?? '')
</script>

<template>
  <div class="tray" role="group" aria-label="seeds as laid">
    <div v-for="(row, r) in rows" :key="r" class="five">
      <button
        v-for="seed in row"
        :key="seed.at"
        type="button"
        :class="['seed', seed.letter]"
        :aria-label="`seed ${seed.at + 1}: ${said(seed.letter)}`"
        @click="emit('set', seed.at)"
      >
        <svg viewBox="0 0 24 24" aria-hidden="true">
          <ellipse cx="12" :cy="seed.letter === 'u' ? 17 : 13" rx="6" ry="4.2" />
          <path
            v-if="seed.letter === 'u'"
            d="M12 13V5M12 8c-4 0-5-3-5-4 4 0 5 2 5 4Zm0 0c4 0 5-3 5-4-4 0-5 2-5 4Z"
          />
          <path v-else-if="seed.letter === 'c'" d="M12 9l1 4-1.5 2 1 3" />
          <text v-else-if="seed.letter !== 'w'" x="12" y="16.5">{{ seed.letter }}</text>
        </svg>
      </button>
    </div>
  </div>
</template>

<style scoped>
.tray {
  display: grid;
  grid-template-columns: repeat(auto-fit, minmax(236px, 1fr));
  gap: 4px 14px;
  margin: 10px 0;
}
.five {
  display: grid;
  grid-template-columns: repeat(5, minmax(44px, 56px));
  gap: 4px;
}
.seed {
  height: 44px;
  padding: 2px;
  border: 1px solid var(--hair);
  border-radius: 4px;
  background: var(--page);
  cursor: pointer;
}
.seed svg {
  width: 34px;
  height: 34px;
}
.seed ellipse {
  fill: none;
  stroke: var(--soft);
  stroke-width: 1.4;
}
.seed path {
  fill: none;
  stroke: var(--ink);
  stroke-width: 1.6;
}
.seed text {
  font: 700 9px var(--mono, monospace);
  text-anchor: middle;
  fill: var(--warm);
}
.seed.u {
  background: var(--living-wash);
}
.seed.u path,
.seed.u ellipse {
  stroke: var(--living);
}
.seed:focus-visible {
  outline: 2px solid var(--act);
}
</style>
