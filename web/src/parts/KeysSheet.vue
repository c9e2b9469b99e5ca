<script setup lang="ts">
import { computed } from 'vue'
import { ROOMS } from '../router'
import { keysOn, newHere, pageKeys } from './keys'

/** All shortcuts that do something where one stands, and the switch to have none. */
const emit = defineEmits<{ close: [] }>()
const rows = computed<[string, string][]>(() => [
  ...ROOMS.map((r, i): [string, string] => [String(i + 1), `${r.name}: ${r.for}`]),
  ['/', 'find anything'],
  ...(newHere.value ? [['n', newHere.value.words] as [string, string]] : []),
  ['u', 'take the last act back'],
  ['Esc', 'back, or close what is open'],
  ...pageKeys.value,
])
</script>

<template>
  <Sheet open title="Shortcuts" :width="520" @close="emit('close')">
    <ASwitch v-model:checked="keysOn" class="switch" aria-label="shortcuts of single keys" autofocus />
    {{ keysOn ? 'single keys do what stands here' : 'single keys do nothing' }}
    <dl :class="{ off: !keysOn }">
      <template v-for="[key, words] in rows" :key="key + words">
        <dt>
          <kbd>{{ key }}</kbd>
        </dt>
        <dd>{{ words }}</dd>
      </template>
    </dl>
  </Sheet>
</template>

<style scoped>
.switch {
  margin-right: 8px;
}
dl {
  display: grid;
  grid-template-columns: 70px 1fr;
  gap: 5px 10px;
  margin: 12px 0 0;
}
dd {
  margin: 0;
}
.off {
  color: var(--soft);
}
</style>
