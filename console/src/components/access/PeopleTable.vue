<script setup lang="ts">
import { ElButton, ElOption, ElSelect } from 'element-plus'
import { api, data, type Schemas } from '../../api/client'
import { change } from '../../api/queries'
import { useTrouble } from '../../composables/form'
import { handedOver } from '../../composables/show'
import { sure } from '../../composables/ask'

/** Everyone with an account: what they may do, and whether they are let in. */
defineProps<{ people: Schemas['Person'][]; own: number }>()
const emit = defineEmits<{ password: [words: string] }>()
const trouble = useTrouble()
const put = change(
  (c: { id: number; body: Schemas['PersonChange'] }) =>
    data(api.PATCH('/people/{id}', { params: { path: { id: c.id } }, body: c.body })),
  ['people', 'session'],
  undefined,
  true,
)
const fresh = change(
  (id: number) => data(api.POST('/people/{id}/password', { params: { path: { id } } })),
  ['people'],
  (p) => emit('password', handedOver(p)),
  true,
)
async function close(p: Schemas['Person']) {
  const says =
    `${p.name} can no longer sign in. Sessions, tokens and feeds end at once. ` +
    'Their past activity stays in the records.'
  if (await sure('Close the account?', says, 'Close account'))
    await trouble.guard(() => put.mutateAsync({ id: p.id, body: { closed: true } }))
}
async function renew(p: Schemas['Person']) {
  const says = `All sessions of ${p.name} end, and the old password no longer works.`
  if (await sure('Set a one-time password?', says, 'Set password')) await trouble.guard(() => fresh.mutateAsync(p.id))
}
</script>

<template>
  <p v-if="trouble.text.value" role="alert" class="trouble">{{ trouble.text.value }}</p>
  <div class="wide">
    <table class="plain">
      <thead>
        <tr>
          <th>Name</th>
          <th>E-mail</th>
          <th>Role</th>
          <th>Account</th>
          <th>Actions</th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="p in people" :key="p.id" :class="{ soft: p.closed }">
          <td>{{ p.name }}</td>
          <td>{{ p.email }}</td>
          <td>
            <ElSelect
              :model-value="p.role"
              size="small"
              class="role"
              :aria-label="`Role of ${p.name}`"
              :disabled="p.closed"
              @update:model-value="
                (role: Schemas['Role']) => trouble.guard(() => put.mutateAsync({ id: p.id, body: { role } }))
              "
              ><ElOption v-for="r in ['viewer', 'editor', 'admin']" :key="r" :value="r" :label="r"
            /></ElSelect>
          </td>
          <td>{{ p.closed ? 'closed' : p.mustChangePassword ? 'one-time password' : 'open' }}</td>
          <td>
            <div v-if="p.id !== own" class="row">
              <ElButton v-if="!p.closed" size="small" text @click="renew(p)">New password</ElButton>
              <ElButton v-if="!p.closed" size="small" text @click="close(p)">Close</ElButton>
              <ElButton
                v-else
                size="small"
                text
                @click="trouble.guard(() => put.mutateAsync({ id: p.id, body: { closed: false } }))"
                >Reopen</ElButton
              >
            </div>
          </td>
        </tr>
      </tbody>
    </table>
  </div>
</template>

<style scoped>
.role {
  width: 7rem;
}
.trouble {
  color: var(--bad);
}
</style>
