<script setup lang="ts">
import { useQueryClient } from '@tanstack/vue-query'
import { ElButton } from 'element-plus'
import { api, type Schemas } from '../api/client'
import SecondFactors from '../components/access/SecondFactors.vue'

/** What somebody sees whom the studio asks for a second factor, until one is set up. */
defineProps<{ person: Schemas['Person'] }>()
defineEmits<{ done: [] }>()
const queries = useQueryClient()
async function signOut() {
  await api.DELETE('/session')
  queries.clear()
  location.assign('/')
}
</script>

<template>
  <main class="page">
    <div class="head">
      <h1>Set up a second factor</h1>
      <ElButton text size="small" @click="signOut">Sign out</ElButton>
    </div>
    <p>Welcome, {{ person.name }}. Your studio asks for a second factor beside the password.</p>
    <SecondFactors />
    <p v-if="person.secondFactor">
      <ElButton type="primary" @click="$emit('done')">Go on</ElButton>
    </p>
  </main>
</template>
