<script setup lang="ts">
import { ref } from 'vue'
import type { Glance, StockRow } from '../../api/client'
import type { Axis } from '../../parts/axis'
import FadeStrip from '../../parts/FadeStrip.vue'
import { day, likely, middle, seedsWords, word } from '../../parts/words'

defineProps<{
  row: StockRow
  strip: Glance | undefined
  axis: Axis
  picked: boolean
}>()
defineEmits<{ pick: [range: boolean]; step: [event: KeyboardEvent, by: number] }>()
/**
 * The whole row leads to the packet; only the box to choose it lies above that link. The box is the
 * browser's: with the library's a turn of the wheel over a long list takes twice as long.
 */
const shift = ref(false)
</script>

<template>
  <div
    class="lot"
    :class="{ picked }"
    :data-code="row.code"
    @keydown.down.prevent="$emit('step', $event, 1)"
    @keydown.up.prevent="$emit('step', $event, -1)"
    @keydown.x.prevent="$emit('pick', $event.shiftKey)"
  >
    <label class="choose">
      <input
        type="checkbox"
        tabindex="-1"
        :checked="picked"
        :aria-label="`choose ${row.code}`"
        @click="shift = $event.shiftKey"
        @change="$emit('pick', shift)"
      />
    </label>
    <RouterLink class="open" :to="`/stock/${row.lot_id}`" :aria-label="`${row.code} ${row.variety}`" />
    <span class="code">{{ row.code }}</span>
    <span class="what"
      ><span class="name">{{ row.variety }}</span>
      <span class="soft"
        >{{ row.kind_name }}{{ row.type_name && row.type_name !== row.kind_name ? `, ${row.type_name}` : ''
        }}{{ row.hybrid ? ', hybrid' : ''
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
    <FadeStrip v-if="strip && row.named" class="strip" :glance="strip" :axis />
    <span v-else class="strip" :class="{ waiting: row.named }" />
    <span class="now">
      <span v-if="row.kept_until_s">keeps till about {{ day(row.kept_until_s) }}</span>
      <span v-else-if="!row.named" class="soft">nobody knows its kind</span>
      <template v-else-if="row.now">
        <strong>{{ middle(row.now.mid, row.now.step) }}</strong>, {{ likely(row.now)
        }}<span v-if="row.guess" class="soft small"> a guess</span>
      </template>
      <template v-else-if="strip">
        <strong>{{ middle(strip.now.mid, strip.now.step) }}</strong>, {{ likely(strip.now) }}
      </template>
      <span class="small next" :class="row.urgency >= 2 ? 'act' : 'soft'" :title="row.next_act">{{
        row.next_act
      }}</span>
    </span>
  </div>
</template>

<style scoped>
.lot {
  display: grid;
  grid-template-columns: var(--stock-columns);
  gap: 10px;
  align-items: center;
  border-top: 1px solid var(--hair-soft);
  padding: 4px 0;
  line-height: 1.25;
  position: relative;
}
.open {
  position: absolute;
  inset: 0;
  z-index: 1;
}
.choose {
  position: relative;
  z-index: 2;
  opacity: 0.5;
  display: grid;
  place-items: center;
  width: 24px;
  height: 24px;
}
.choose input {
  width: 16px;
  height: 16px;
  margin: 0;
  accent-color: var(--act);
}
.what,
.much,
.where {
  overflow: hidden;
  text-overflow: ellipsis;
}
@media (min-width: 761px) {
  .what,
  .much,
  .where {
    display: -webkit-box;
    -webkit-box-orient: vertical;
    -webkit-line-clamp: 2;
  }
}
.lot:hover {
  background: color-mix(in srgb, var(--paper) 60%, transparent);
}
.lot.picked {
  background: var(--act-wash);
}
.lot:hover .choose,
.lot:focus-within .choose,
.lot.picked .choose {
  opacity: 1;
}
.where,
.much {
  font-size: 14px;
}
.now {
  min-width: 0;
}
.next {
  display: block;
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
.waiting {
  height: 28px;
  border-bottom: 1px solid var(--hair);
}
@media (max-width: 760px) {
  .choose {
    width: 44px;
    height: 44px;
    margin: -10px;
  }
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
