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
      <p class="soft">Welcome, {{ person.name }}. Your password is valid for one sign-in. Set your own password now.</p>
      <label for="current">One-time password</label>
      <ElInput id="current" v-model="current" type="password" autocomplete="current-password" />
      <label for="next">New password, at least 15 characters</label>
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
