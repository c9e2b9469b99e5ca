<script setup lang="ts">
import { ref } from 'vue'
import type { Schemas } from '../../api/client'
import { amount, day, iso, range } from '../../parts/words'

/** What is left with its interval, what is set aside, what goes a year, and every entry. */
defineProps<{ balance: Schemas['Balance']; seedsPerG: number; use: string }>()
defineEmits<{ ask: [what: 'aside' | 'weigh' | 'count'] }>()
const all = ref(false)
const whole = (n: number) => amount(Math.round(n))
</script>

<template>
  <div>
    <h2>How much</h2>
    <p v-if="balance.seeds === null || balance.seeds === undefined" class="soft">
      Nobody counted it yet, so it covers nothing.
      <AButton type="link" size="small" @click="$emit('ask', 'count')">count it</AButton>
    </p>
    <p v-else>
      <strong>{{ whole(balance.seeds) }} seeds</strong>, likely {{ range(balance.low, balance.high) }};
      <span class="soft">{{ seedsPerG < 10 ? seedsPerG.toFixed(1) : whole(seedsPerG) }} to the gram</span>
      <AButton type="link" size="small" @click="$emit('ask', 'weigh')">weigh a hundred</AButton>
    </p>
    <p v-if="balance.says">{{ balance.says }}</p>
    <p>
      Meant for {{ use
      }}<template v-for="(n, u) in balance.set_aside" :key="u"
        >; {{ whole(n) }} seeds set aside for {{ u }}</template
      >.
      <AButton type="link" size="small" @click="$emit('ask', 'aside')">set some aside</AButton>
    </p>
    <table v-if="balance.lines.length" class="plain small">
      <tbody>
        <tr v-for="l in all ? balance.lines : balance.lines.slice(0, 4)" :key="l.entry_id">
          <td :title="iso(l.at_s)">{{ day(l.at_s, true) }}</td>
          <td>{{ l.words }} {{ l.as_said || whole(l.seeds) }}</td>
          <td class="soft">left {{ whole(l.left) }}, likely {{ range(l.left_low, l.left_high) }}</td>
        </tr>
      </tbody>
    </table>
    <AButton v-if="balance.lines.length > 4" type="link" size="small" @click="all = !all">
      {{ all ? 'fewer' : `all ${balance.lines.length} entries` }}
    </AButton>
  </div>
</template>
