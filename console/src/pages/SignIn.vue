<script setup lang="ts">
import { useQueryClient } from '@tanstack/vue-query'
import { ElButton, ElInput } from 'element-plus'
import { onMounted, ref } from 'vue'
import { api, data, message, ProblemError, type Schemas } from '../api/client'
import { passkeysHere, signInWithPasskey } from '../composables/passkeys'

const queries = useQueryClient()
const email = ref('')
const password = ref('')
const trouble = ref('')
const busy = ref(false)

const code = ref('')
const wanted = ref(false) // a code
const ways = ref<Schemas['WaysIn']>()
onMounted(async () => {
  ways.value = await data(api.GET('/session/ways')).catch(() => undefined)
  trouble.value ||= ways.value?.problem ?? ''
})

const withPassword = () => {
  const body = { email: email.value, password: password.value, code: code.value || undefined }
  return data(api.POST('/session', { body }))
}
async function signIn(by: () => Promise<Schemas['Person']>) {
  busy.value = true
  trouble.value = ''
  try {
    queries.setQueryData(['session'], await by())
    await queries.invalidateQueries()
  } catch (e) {
    const needed = e instanceof ProblemError && e.problem.code === 'second-factor-needed'
    wanted.value ||= needed
    trouble.value = e instanceof DOMException ? 'No passkey was used.' : message(e)
  } finally {
    busy.value = false
  }
}
</script>

<template>
  <main class="door">
    <form class="sheet" @submit.prevent="signIn(withPassword)">
      <img src="/mark.svg" alt="" width="52" height="52" />
      <h1>Spare Crate</h1>
      <p class="soft">The studio's font catalog: licenses, sites and packs ready to upload.</p>
      <label for="email">E-mail</label>
      <ElInput id="email" v-model="email" type="email" autocomplete="username" required autofocus />
      <label for="password">Password</label>
      <ElInput id="password" v-model="password" type="password" autocomplete="current-password" required />
      <template v-if="wanted">
        <label for="code">Code of the second factor, or a recovery code</label>
        <ElInput id="code" v-model="code" autocomplete="one-time-code" />
      </template>
      <p v-if="trouble" role="alert" class="trouble">{{ trouble }}</p>
      <ElButton type="primary" native-type="submit" :loading="busy">Sign in</ElButton>
      <a v-if="ways?.signOn" class="way" :href="ways.path">{{ ways.signOn }}</a>
      <ElButton v-if="passkeysHere()" :disabled="busy" @click="signIn(signInWithPasskey)"
        >Sign in with a passkey</ElButton
      >
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
  margin: 1rem 0 0;
}
.way {
  margin-top: 0.8rem;
  text-align: center;
}
.trouble {
  color: var(--bad);
  margin: 0.6rem 0 0;
}
</style>
