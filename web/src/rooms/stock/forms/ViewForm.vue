<script setup lang="ts">
import { ref } from 'vue'
import ActForm from '../../../parts/ActForm.vue'
import { word } from '../../../parts/words'
import { keepView } from '../acts'

/** The list as it stands now is kept under a name. */
const props = defineProps<{ group: string; words: string }>()
const name = ref(props.words || word('grouping', props.group))
const filing = ref(false)
const call = () =>
  keepView({ name: name.value, group: props.group, words: props.words, filing: filing.value })
</script>

<template>
  <ActForm
    title="Keep this view"
    submit="Keep it"
    :ready="name.trim() !== ''"
    :words="() => `Kept the view ${name}`"
    :call
  >
    <TextField v-model="name" label="name of this view" name="name" />
    <ACheckbox v-model:checked="filing">
      our packets stand in this order: lists and labels follow it
    </ACheckbox>
  </ActForm>
</template>
