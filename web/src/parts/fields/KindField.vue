<script setup lang="ts">
import { computed, ref } from 'vue'
import { useKinds } from '../../api/queries'

/** A kind by any of its names; what is typed stays as it is, the larder says what it takes it for. */
const text = defineModel<string>({ required: true })
const props = withDefaults(
  defineProps<{ label?: string; name?: string; placeholder?: string; wrong?: string }>(),
  { label: 'kind', name: 'kind', placeholder: 'pea, kale, ?' },
)
const kinds = useKinds()
const open = ref(false)
const options = computed(() => {
  const typed = text.value.trim().toLowerCase()
  if (!typed) return []
  return (kinds.data.value ?? [])
    .filter((k) => k.name.toLowerCase().includes(typed))
    .slice(0, 12)
    .map((k) => ({ value: k.name }))
})
const input = ref<{ focus: () => void } | null>(null)
defineExpose({ focus: () => input.value?.focus() })
// Enter takes what is typed, never a name that merely stands first in the list
const shared = computed(() => ({
  options: options.value,
  open: open.value && options.value.length > 0,
  defaultActiveFirstOption: false,
  backfill: true,
  placeholder: props.placeholder,
}))
</script>

<template>
  <Field v-slot="{ id }" :label :name :wrong>
    <AAutoComplete
      :id
      ref="input"
      v-model:value="text"
      class="kind"
      v-bind="shared"
      @dropdown-visible-change="(now: boolean) => (open = now)"
    />
  </Field>
</template>

<style scoped>
.kind {
  width: 100%;
}
</style>
