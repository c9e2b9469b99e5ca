<script lang="ts">
export type Rare = { words: string; act: () => void; key?: string; danger?: boolean; off?: boolean }
</script>

<script setup lang="ts">
/** The rarer acts of a row or page behind one quiet word. */
defineProps<{ acts: Rare[]; words?: string; hears?: string; small?: boolean; up?: boolean }>()
</script>

<template>
  <ADropdown :trigger="['click']" :placement="up ? 'topRight' : 'bottomRight'">
    <AButton :size="small ? 'small' : undefined" :aria-label="hears" aria-haspopup="menu" class="more-button">
      {{ words ?? 'more' }}
    </AButton>
    <template #overlay>
      <AMenu>
        <AMenuItem v-for="a in acts" :key="a.words" :disabled="a.off" @click="a.act">
          {{ a.words }} <kbd v-if="a.key">{{ a.key }}</kbd>
        </AMenuItem>
      </AMenu>
    </template>
  </ADropdown>
</template>
