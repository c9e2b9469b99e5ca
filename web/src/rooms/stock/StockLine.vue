<script setup lang="ts">
import { useRouter } from 'vue-router'
import type { Glance, StockRow } from '../../api/client'
import FadeStrip from '../../parts/FadeStrip.vue'
import { iso, likely, percent, seedsWords, word } from '../../parts/words'

defineProps<{
  row: StockRow
  strip: Glance | undefined
  axis: { fromS: number; toS: number; nowS: number; level: number }
  picked: boolean
}>()
defineEmits<{ pick: []; step: [event: KeyboardEvent, by: number] }>()
const router = useRouter()
</script>

<template>
  <a
    class="lot"
    :class="{ picked }"
    :href="`/stock/${row.lot_id}`"
    :data-code="row.code"
    @click.prevent="router.push(`/stock/${row.lot_id}`)"
    @keydown.down.prevent="$emit('step', $event, 1)"
    @keydown.up.prevent="$emit('step', $event, -1)"
    @keydown.x.prevent="$emit('pick')"
  >
    <input
      type="checkbox"
      tabindex="-1"
      :checked="picked"
      :aria-label="`choose ${row.code}`"
      title="choose (x)"
      @click.stop="$emit('pick')"
    />
    <span class="code">{{ row.code }}</span>
    <span class="what"
      ><span class="name">{{ row.variety }}</span>
      <span class="soft"
        >{{ row.kind_name }}{{ row.hybrid ? ', hybrid' : ''
        }}<template v-for="m in row.marks" :key="m">, {{ m }}</template></span
      ></span
    >
    <span class="much"
      >{{ seedsWords(row) }}
      <span class="small soft"
        >· {{ row.origin }}{{ row.use === 'seed' ? '' : ` · for ${row.use}` }}</span
      ></span
    >
    <span class="where soft"
      ><span v-if="word('lot_state', row.state)" class="act">{{ word('lot_state', row.state) }}</span
      ><template v-else
        >{{ row.place || 'no place named'
        }}<template v-if="row.position">, {{ row.position }}</template></template
      ></span
    >
    <FadeStrip
      v-if="strip"
      class="strip"
      :glance="strip"
      :from-s="axis.fromS"
      :to-s="axis.toS"
      :now-s="axis.nowS"
      :level="axis.level"
    />
    <span v-else class="strip waiting" />
    <span class="now">
      <template v-if="row.now">
        <strong>{{ percent(row.now.mid) }}</strong>, {{ likely(row.now)
        }}<span v-if="row.guess" class="soft small"> a guess</span> <br />
      </template>
      <template v-else-if="strip">
        <strong>{{ percent(strip.now.mid) }}</strong>, {{ likely(strip.now) }} <br />
      </template>
      <span
        class="small"
        :class="row.urgency >= 2 ? 'act' : 'soft'"
        :title="row.good_until_s ? iso(row.good_until_s) : undefined"
        >{{ row.next_act }}</span
      >
    </span>
  </a>
</template>

<style scoped>
.lot {
  display: grid;
  grid-template-columns:
    22px 44px minmax(140px, 1.1fr) minmax(110px, 0.75fr) minmax(110px, 0.75fr) minmax(250px, 2.3fr)
    186px;
  gap: 10px;
  align-items: center;
  border-top: 1px solid var(--hair-soft);
  padding: 4px 0;
  text-decoration: none;
  line-height: 1.25;
}
.lot:hover {
  background: color-mix(in srgb, var(--paper) 60%, transparent);
}
.lot.picked {
  background: var(--act-wash);
}
.lot input {
  width: 17px;
  height: 17px;
  accent-color: var(--act);
  opacity: 0.45;
}
.lot:hover input,
.lot:focus-within input,
.lot.picked input {
  opacity: 1;
}
.where,
.much {
  font-size: 14px;
}
.waiting {
  height: 28px;
  border-bottom: 1px solid var(--hair);
}
@media (max-width: 760px) {
  .lot {
    grid-template-columns: 26px 44px 1fr auto;
    gap: 2px 8px;
    padding: 10px 0;
  }
  .lot .strip {
    grid-column: 1 / 5;
    margin: 4px 0;
  }
  .lot .where {
    grid-column: 3;
  }
  .lot .much {
    grid-column: 4;
    grid-row: 1;
    text-align: right;
  }
  .much .small {
    display: none;
  }
  .lot .now {
    grid-column: 1 / 5;
  }
}
</style>
