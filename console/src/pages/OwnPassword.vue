<script setup lang="ts">
import { useQueryClient } from '@tanstack/vue-query'
import { ElButton, ElInput } from 'element-plus'
import { ref } from 'vue'
import { api, message, type Schemas } from '../api/client'

defineProps<{ person: Schemas['Person'] }>()
const queries = useQueryClient()
const current = ref('')
const next = ref('')
const trouble = ref('')

async function save() {
  trouble.value = ''
  try {
    await api.PUT('/session/password', { body: { current: current.value, new: next.value } })
    await queries.invalidateQueries()
  } catch (e) {
    trouble.value = message(e)
  }
}
</script>

<template>
  <main class="page">
    <form class="sheet" @submit.prevent="save">
      <h1>Your own password</h1>
      <p class="soft">
        Welcome, {{ person.name }}. The password you came in with is good for this once; set your own now.
      </p>
      <label for="current">The one-time password</label>
      <ElInput id="current" v-model="current" type="password" autocomplete="current-password" />
      <label for="next">Your own password, at least 15 characters</label>
      <ElInput id="next" v-model="next" type="password" autocomplete="new-password" />
      <p v-if="trouble" role="alert" class="trouble">{{ trouble }}</p>
      <ElButton type="primary" native-type="submit">Set password</ElButton>
    </form>
  </main>
</template>

<style scoped>
form {
  max-width: 26rem;
  margin: 3rem auto;
  display: grid;
  gap: 0.5rem;
}
.trouble {
  color: var(--bad);
}
</style>
