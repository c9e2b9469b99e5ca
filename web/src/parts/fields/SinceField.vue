<script setup lang="ts">
import { computed, ref } from 'vue'
import dayjs from 'dayjs'
import { useHome } from '../../api/queries'

/**
 * Since when seed lies where it lies: since it came, only from now, since about a year; empty: as the larder
 * takes it (its words stand in the field). Before that it lay in the household's usual place.
 */
const since = defineModel<string>({ required: true })
const props = withDefaults(
  defineProps<{ label?: string; name?: string; placeholder?: string; now?: string }>(),
  { label: 'there since', name: 'since', placeholder: 'as it is taken', now: 'only from now' },
)
const home = useHome()
const year = computed(() => dayjs(home.data.value?.today).year())
const options = computed(() =>
  ['since it came', props.now, `since about ${year.value - 1}`, `since about ${year.value - 3}`].map(
    (value) => ({ value }),
  ),
)
const offered = ref(false)
</script>

<template>
  <Field v-slot="{ id }" :label :name>
    <AAutoComplete
      :id
      v-model:value="since"
      class="whole"
      :options
      :open="offered && !since"
      :default-active-first-option="false"
      :placeholder
      :data-name="name"
      @dropdown-visible-change="(open: boolean) => (offered = open)"
    />
  </Field>
</template>

<style scoped>
.whole {
  width: 100%;
  min-width: 0;
}
</style>
