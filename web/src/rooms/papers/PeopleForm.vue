<script setup lang="ts">
import { ref } from 'vue'
import { useHome } from '../../api/queries'
import ActForm from '../../parts/ActForm.vue'
import { addPerson } from './acts'

const home = useHome()
const person = ref('')
const words = () => `Added ${person.value}`
const call = () => addPerson(person.value)
</script>

<template>
  <div>
    <h2>People</h2>
    <p>{{ home.data.value?.people.map((p) => p.name).join(', ') || 'Nobody is named yet.' }}</p>
    <ActForm inline quiet submit="Add" :ready="person.trim() !== ''" :words :call @done="person = ''">
      <TextField v-model="person" label="name of a person" name="name" />
    </ActForm>
  </div>
</template>
