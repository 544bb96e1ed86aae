<script setup lang="ts">
import { ElAlert, ElButton, ElInput, ElInputNumber, ElOption, ElSelect } from 'element-plus'
import { computed, ref } from 'vue'
import { api, data as dataOf, type Schemas } from '../../api/client'
import { change, everyonesTokens, tokens } from '../../api/queries'
import { useTrouble } from '../../composables/form'
import { when } from '../../composables/show'
import { sure } from '../../composables/ask'
import { asNew, noLimits, sees } from '../../composables/limits'
import PersonLimits from './PersonLimits.vue'

/** The tokens of a person, and of everybody for an admin; a form for a new one. */
const props = defineProps<{ role: Schemas['Role']; own: number }>()
const admin = computed(() => props.role === 'admin')
const scopes = computed(() => (['read', 'write', 'admin'] as const).filter((s) => s !== 'admin' || admin.value))
const { data: mine } = tokens()
const { data: all } = everyonesTokens(admin)
const others = computed(() => all.value?.items.filter((t) => t.person.id !== props.own) ?? [])
const name = ref('')
const scope = ref<Schemas['TokenScope']>('read')
const days = ref(90)
const secret = ref('')
const limits = ref(noLimits())
const trouble = useTrouble()

const add = change(
  () => {
    const { clients, prices, documents } = asNew(limits.value)
    const body = { name: name.value, scope: scope.value, days: days.value, clients, prices, documents }
    return dataOf(api.POST('/tokens', { body }))
  },
  ['tokens'],
  (t) => {
    secret.value = t.secret
    name.value = ''
  },
  true,
)
const revoke = change((id: number) => api.DELETE('/tokens/{id}', { params: { path: { id } } }), ['tokens'])
const said = (t: Schemas['Token']) =>
  `${t.scope}, ${sees(t)}, made ${when(t.createdAt)}, expires ${when(t.expiresAt)}, ` +
  (t.lastUsedAt ? `last used ${when(t.lastUsedAt)}` : 'never used')
async function ask(t: { id: number; name: string }) {
  const says = `Programs that use it can no longer sign in. This cannot be undone.`
  if (await sure(`Revoke the token ${t.name}?`, says, 'Revoke')) revoke.mutate(t.id)
}
</script>

<template>
  <h2>Your tokens</h2>
  <p class="soft small">
    A token lets a program use the API on your behalf until it expires, within its scope and your role. The command line
    creates its own with <code>sparecrate sign-in</code>.
  </p>
  <p v-if="trouble.text.value" role="alert" class="trouble">{{ trouble.text.value }}</p>
  <ul class="list">
    <li v-for="t in mine?.items ?? []" :key="t.id" class="row line">
      <strong>{{ t.name }}</strong><span class="soft small">{{ said(t) }}</span
      ><ElButton size="small" text @click="ask(t)">Revoke</ElButton>
    </li>
  </ul>
  <form class="row" @submit.prevent="trouble.guard(() => add.mutateAsync(undefined))">
    <ElInput v-model="name" class="field" placeholder="What the token is for" aria-label="What the token is for" />
    <ElSelect v-model="scope" class="scope" aria-label="Scope"
      ><ElOption v-for="s in scopes" :key="s" :value="s" :label="s"
    /></ElSelect>
    <label class="row"
      >Days
      <ElInputNumber
        v-model="days"
        class="days"
        :min="1"
        :max="365"
        :controls="false"
        aria-label="Days until it expires"
    /></label>
    <PersonLimits v-model="limits" role="editor" plain whose="the token" />
    <ElButton native-type="submit" :disabled="!name.trim()">Create a token</ElButton>
  </form>
  <ElAlert
    v-if="secret"
    type="success"
    :title="secret"
    description="Copy it now. It is not shown again."
    @close="secret = ''"
  />
  <template v-if="others.length">
    <h2>Other people's tokens</h2>
    <ul class="list">
      <li v-for="t in others" :key="t.id" class="row line">
        <strong>{{ t.person.name }}: {{ t.name }}</strong
        ><span class="soft small">{{ said(t) }}</span
        ><ElButton size="small" text @click="ask(t)">Revoke</ElButton>
      </li>
    </ul>
  </template>
</template>

<style scoped>
.line {
  padding: 0.4rem 0;
}
form {
  margin: 0.7rem 0;
}
.field {
  width: min(18rem, 100%);
}
.scope {
  width: 7rem;
}
.days {
  width: 4.5rem;
}
.trouble {
  color: var(--bad);
}
</style>
