<script setup lang="ts">
import { ElAlert, ElButton, ElInput } from 'element-plus'
import { ref } from 'vue'
import { api, data as dataOf, ProblemError, type Schemas } from '../../api/client'
import { change, factors } from '../../api/queries'
import { sure } from '../../composables/ask'
import { useTrouble } from '../../composables/form'
import { makePasskey, passkeysHere } from '../../composables/passkeys'
import { when } from '../../composables/show'

/** What lets a person in beside the password: codes of an app, passkeys, recovery codes. */
const { data: own } = factors()
const trouble = useTrouble()
const setup = ref<Schemas['TotpSetup']>()
const code = ref('')
const name = ref('')
const codes = ref<string[]>()
const password = ref('')
const asking = ref(false)
let waiting: (() => Promise<unknown>) | undefined

const touched = ['factors', 'session', 'people']
const start = change(
  () => dataOf(api.POST('/session/totp')),
  touched,
  (s) => (setup.value = s),
  true,
)
const took = (f: Schemas['AddedFactor']) => {
  codes.value = f.recoveryCodes ?? codes.value
  setup.value = undefined
  code.value = name.value = ''
}
const confirm = change(() => dataOf(api.PUT('/session/totp', { body: { code: code.value } })), touched, took, true)
const endTotp = change(() => api.DELETE('/session/totp'), touched, undefined, true)
const add = change(() => makePasskey(name.value.trim()), touched, took, true)
const drop = change(
  (id: number) => api.DELETE('/session/passkeys/{id}', { params: { path: { id } } }),
  touched,
  undefined,
  true,
)
const renew = change(() => dataOf(api.POST('/session/recovery-codes')), touched, took, true)

/** Does what the password may have to be confirmed for, and again once it is. */
async function guarded(run: () => Promise<unknown>) {
  await trouble.guard(async () => {
    try {
      await run()
    } catch (e) {
      if (!(e instanceof ProblemError) || e.problem.code !== 'confirm-password') throw e
      waiting = run
      asking.value = true
    }
  })
}
const prove = () =>
  trouble.guard(async () => {
    await api.POST('/session/confirmation', { body: { password: password.value } })
    password.value = ''
    asking.value = false
    await waiting?.()
  })
async function askToDrop(what: string, run: () => Promise<unknown>) {
  if (await sure(`Remove ${what}?`, 'It lets you in no longer.', 'Remove')) await guarded(run)
}
const save = () => {
  const a = document.createElement('a')
  a.href = URL.createObjectURL(new Blob([codes.value!.join('\n') + '\n'], { type: 'text/plain' }))
  a.download = 'spare-crate-recovery-codes.txt'
  a.click()
}
</script>

<template>
  <h2>Second factor</h2>
  <p class="soft small">
    With a second factor, a password that somebody else has learned does not let them in.
    <template v-if="own?.needed">The studio asks for one.</template>
  </p>
  <p v-if="trouble.text.value" role="alert" class="trouble">{{ trouble.text.value }}</p>
  <form v-if="asking" class="row" @submit.prevent="prove">
    <label for="own-password">Your password again</label>
    <ElInput id="own-password" v-model="password" type="password" autocomplete="current-password" class="field" />
    <ElButton native-type="submit">Confirm</ElButton>
  </form>
  <template v-if="own">
    <div class="row line">
      <strong>Authenticator app</strong>
      <span class="soft small">{{ own.totp ? 'set up' : 'not set up' }}</span>
      <ElButton
        v-if="own.totp"
        size="small"
        text
        @click="askToDrop('the authenticator app', () => endTotp.mutateAsync(undefined))"
        >Remove</ElButton
      >
      <ElButton v-else-if="!setup" size="small" @click="guarded(() => start.mutateAsync(undefined))">Set up</ElButton>
    </div>
    <form v-if="setup" class="setup" @submit.prevent="guarded(() => confirm.mutateAsync(undefined))">
      <img :src="`data:image/png;base64,${setup.picture}`" alt="QR code for the app" width="220" height="220" />
      <div>
        <p>
          Scan this with the app, or type <code>{{ setup.secret }}</code> into it. Then enter the code it shows.
        </p>
        <div class="row">
          <ElInput
            v-model="code"
            class="code"
            inputmode="numeric"
            autocomplete="one-time-code"
            aria-label="Code that the app shows"
          />
          <ElButton type="primary" native-type="submit">Confirm the code</ElButton>
        </div>
      </div>
    </form>
    <div v-for="k in own.passkeys" :key="k.id" class="row line">
      <strong>Passkey {{ k.name }}</strong>
      <span class="soft small"
        >added {{ when(k.createdAt) }}, {{ k.lastUsedAt ? `last used ${when(k.lastUsedAt)}` : 'never used' }}</span
      >
      <ElButton size="small" text @click="askToDrop(`the passkey ${k.name}`, () => drop.mutateAsync(k.id))"
        >Remove</ElButton
      >
    </div>
    <form v-if="passkeysHere()" class="row" @submit.prevent="guarded(() => add.mutateAsync(undefined))">
      <ElInput v-model="name" class="field" placeholder="Name, like this laptop" aria-label="Name of the passkey" />
      <ElButton native-type="submit" :disabled="!name.trim()">Add a passkey</ElButton>
    </form>
    <p v-else class="soft small">Passkeys need the name of the service in the address bar, not a number.</p>
    <div v-if="own.totp || own.passkeys.length" class="row line">
      <strong>Recovery codes</strong>
      <span class="soft small">{{ own.recoveryCodes }} left</span>
      <ElButton size="small" text @click="guarded(() => renew.mutateAsync(undefined))">Make new ones</ElButton>
    </div>
  </template>
  <ElAlert v-if="codes" type="success" :closable="false" title="Keep these recovery codes. They are not shown again.">
    <p>Each lets you in once, in place of your second factor.</p>
    <pre class="codes">{{ codes.join('\n') }}</pre>
    <ElButton size="small" @click="save">Save as a file</ElButton>
    <ElButton size="small" @click="codes = undefined">I have kept them</ElButton>
  </ElAlert>
</template>

<style scoped>
.line {
  padding: 0.35rem 0;
}
.setup {
  display: flex;
  flex-wrap: wrap;
  gap: 1rem;
  margin: 0.5rem 0 1rem;
}
.setup img {
  background: #fff;
  padding: 6px;
}
.setup code {
  overflow-wrap: anywhere;
}
.code {
  width: 9rem;
}
.field {
  width: min(18rem, 100%);
}
.codes {
  columns: 2;
  max-width: 22rem;
}
.trouble {
  color: var(--bad);
}
</style>
