<script setup lang="ts">
import dayjs, { type Dayjs } from 'dayjs'
import { computed, ref } from 'vue'
import { useHome } from '../../api/queries'
import { useWriting } from '../writing'

/**
 * A day as people say it: today, last Monday, 3 November, Sep 2024, 2023, not known; or picked from a
 * calendar in the household's order. The larder reads it, so what is half known stays half known.
 */
const on = defineModel<string>({ required: true })
const props = withDefaults(
  defineProps<{
    label?: string
    name?: string
    placeholder?: string
    /** What is offered to choose from; the first years and months, or the last days. */
    of?: 'days' | 'years'
    ahead?: boolean
  }>(),
  { label: 'when', of: 'days', placeholder: 'today' },
)
const home = useHome()
const { dateFormat } = useWriting()
const now = computed(() => dayjs(home.data.value?.today))
const words = computed(() =>
  props.of === 'days'
    ? ['today', 'yesterday', 'last Monday', 'a week ago']
    : [...[0, 1, 2, 3].map((n) => String(now.value.year() - n)), now.value.format('MMM YYYY'), 'not known'],
)
const options = computed(() => words.value.map((value) => ({ value })))
// offered while nothing is typed; afterwards it would only lie over the button below
const offered = ref(false)
const picking = ref(false)
function pick(day: string | Dayjs) {
  on.value = dayjs(day).format(dateFormat.value)
  picking.value = false
}
const outside = (day: Dayjs) => !props.ahead && day.isAfter(now.value, 'day')
const text = computed({ get: () => on.value, set: (v) => (on.value = v === 'not known' ? '?' : (v ?? '')) })
</script>

<template>
  <Field v-slot="{ id }" :label :name>
    <span class="day">
      <AAutoComplete
        :id
        v-model:value="text"
        class="typed"
        :options
        :open="offered && !on"
        :default-active-first-option="false"
        :placeholder
        :data-name="name"
        @dropdown-visible-change="(open: boolean) => (offered = open)"
      />
      <APopover v-model:open="picking" trigger="click" placement="bottomRight">
        <AButton class="pick" aria-label="pick the day from a calendar" :tabindex="-1">…</AButton>
        <template #content>
          <ACalendar
            v-if="picking"
            class="calendar"
            :fullscreen="false"
            :value="now"
            :disabled-date="outside"
            @select="pick"
          />
        </template>
      </APopover>
    </span>
  </Field>
</template>

<style scoped>
.day {
  display: flex;
}
.typed {
  flex: 1;
  min-width: 100px;
}
.pick {
  margin-left: -1px;
  padding: 0 9px;
}
.calendar {
  width: 290px;
}
</style>
