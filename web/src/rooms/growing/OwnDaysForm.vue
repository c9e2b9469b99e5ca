<script setup lang="ts">
import { computed, ref, watch } from 'vue'
import type { Schemas } from '../../api/client'
import { useAct } from '../../api/queries'
import ActForm from '../../parts/ActForm.vue'
import { bookDays, sayDays } from './acts'

/** From when to when a kind is sown here, by one's own experience. */
const props = defineProps<{ kind: Schemas['KindLine'] }>()
const emit = defineEmits<{ close: [] }>()
const act = useAct()
const setting = ref(props.kind.spans.some((s) => s.what === 'outdoors') ? 'outdoors' : 'indoors')
const span = computed(() => props.kind.spans.find((s) => s.what === setting.value))
const first = ref('')
const last = ref('')
const note = ref('')
watch(
  setting,
  () => {
    first.value = span.value?.first ?? ''
    last.value = span.value?.last ?? ''
  },
  { immediate: true },
)
const words = () => `${props.kind.kind_name} sown ${setting.value} on days of our own`
const call = () =>
  sayDays(
    { crop: props.kind.kind, setting: setting.value },
    { first: first.value.slice(5), last: last.value.slice(5), note: note.value },
  )
async function book() {
  const said = `${props.kind.kind_name}: sown ${setting.value} by the book`
  if (await act.run(said, () => bookDays({ crop: props.kind.kind, setting: setting.value }))) emit('close')
}
const SETTINGS = { indoors: 'indoors', outdoors: 'outdoors' }
</script>

<template>
  <ActForm
    :title="`When ${kind.kind_name} is sown here`"
    submit="Sow it then"
    :ready="first !== '' && last !== ''"
    :words
    :call
    @close="emit('close')"
  >
    <ChoiceField v-model="setting" label="where" name="where" :options="SETTINGS" />
    <div class="two">
      <DateField v-model="first" label="first day" name="first day" shown="D MMM" />
      <DateField v-model="last" label="last day" name="last day" shown="D MMM" />
    </div>
    <TextField v-model="note" label="why" name="note" placeholder="the soil is cold here till then" />
    <template v-if="span?.own" #beside>
      <AButton type="link" @click="book">back to the book’s days</AButton>
    </template>
  </ActForm>
</template>

<style scoped>
.two {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 0 14px;
}
</style>
