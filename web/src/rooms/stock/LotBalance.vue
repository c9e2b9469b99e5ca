<script setup lang="ts">
import { ref } from 'vue'
import type { Schemas } from '../../api/client'
import { amount, day, iso, range } from '../../parts/words'
import { useWriting } from '../../parts/writing'

/** What is left with its interval, what is set aside, what goes a year, and every entry. */
defineProps<{ balance: Schemas['Balance']; seedsPerG: number; use: string; unit: string }>()
defineEmits<{ ask: [what: 'aside' | 'weigh' | 'count'] }>()
const all = ref(false)
const COLUMNS = [{ key: 'day' }, { key: 'what' }, { key: 'left' }]
const { perMass } = useWriting()
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
      <strong>{{ whole(balance.seeds) }} {{ unit }}s</strong>, likely {{ range(balance.low, balance.high)
      }}<template v-if="unit === 'seed'"
        >; <span class="soft">{{ perMass(seedsPerG) }}</span>
        <AButton type="link" size="small" @click="$emit('ask', 'weigh')">weigh a hundred</AButton></template
      >
    </p>
    <p v-if="balance.says">{{ balance.says }}</p>
    <p>
      Meant for {{ use
      }}<template v-for="(n, u) in balance.set_aside" :key="u"
        >; {{ whole(n) }} {{ unit }}s set aside for {{ u }}</template
      ><template v-if="balance.promised">; {{ whole(balance.promised) }} {{ unit }}s promised</template>.
      <AButton type="link" size="small" @click="$emit('ask', 'aside')">set some aside</AButton>
    </p>
    <DataTable
      v-if="balance.lines.length"
      :rows="all ? balance.lines : balance.lines.slice(0, 4)"
      :columns="COLUMNS"
      by="entry_id"
    >
      <template #day="{ row }"
        ><span :title="iso(row.at_s)">{{ day(row.at_s, true) }}</span></template
      >
      <template #what="{ row }"
        >{{ row.words }} <span class="as-said">{{ row.as_said || whole(row.seeds) }}</span></template
      >
      <template #left="{ row }"
        ><span class="soft"
          >left {{ whole(row.left) }}, likely {{ range(row.left_low, row.left_high) }}</span
        ></template
      >
    </DataTable>
    <AButton v-if="balance.lines.length > 4" type="link" size="small" @click="all = !all">
      {{ all ? 'fewer' : `all ${balance.lines.length} entries` }}
    </AButton>
  </div>
</template>
