<script setup lang="ts">
import { useQueryClient } from '@tanstack/vue-query'
import { ElButton, ElInput } from 'element-plus'
import { ref } from 'vue'
import { api, data, message } from '../api/client'

const queries = useQueryClient()
const email = ref('')
const password = ref('')
const trouble = ref('')
const busy = ref(false)

async function signIn() {
  busy.value = true
  trouble.value = ''
  try {
    queries.setQueryData(
      ['session'],
      await data(api.POST('/session', { body: { email: email.value, password: password.value } })),
    )
    await queries.invalidateQueries()
  } catch (e) {
    trouble.value = message(e)
  } finally {
    busy.value = false
  }
}
</script>

<template>
  <main class="door">
    <form class="sheet" @submit.prevent="signIn">
      <img src="/mark.svg" alt="" width="52" height="52" />
      <h1>Spare Crate</h1>
      <p class="soft">The studio's font catalog: licenses, sites and packs ready to upload.</p>
      <label for="email">E-mail</label>
      <ElInput id="email" v-model="email" type="email" autocomplete="username" required autofocus />
      <label for="password">Password</label>
      <ElInput id="password" v-model="password" type="password" autocomplete="current-password" required />
      <p v-if="trouble" role="alert" class="trouble">{{ trouble }}</p>
      <ElButton type="primary" native-type="submit" :loading="busy">Sign in</ElButton>
    </form>
  </main>
</template>

<style scoped>
.door {
  min-height: 100vh;
  display: grid;
  place-items: center;
  padding: 1rem;
  box-sizing: border-box;
}
form {
  width: min(24rem, 100%);
  box-sizing: border-box;
  padding: 2rem;
  display: grid;
  gap: 0.4rem;
}
h1 {
  margin-top: 0.4rem;
}
p {
  margin: 0 0 0.6rem;
}
label {
  font-size: 0.88rem;
  margin-top: 0.4rem;
}
.el-button {
  margin-top: 1rem;
}
.trouble {
  color: var(--bad);
  margin: 0.6rem 0 0;
}
</style>
