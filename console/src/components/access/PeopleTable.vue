<script setup lang="ts">
import { ElButton, ElOption, ElSelect } from 'element-plus'
import { api, data, type Schemas } from '../../api/client'
import { change } from '../../api/queries'
import { useTrouble } from '../../composables/form'
import DataTable from '../shared/DataTable.vue'
import type { Column } from '../../composables/table'
import { handedOver } from '../../composables/show'
import { sure } from '../../composables/ask'
import { sees } from '../../composables/limits'
import { PersonForm } from '../forms'
import { ref } from 'vue'

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
const lose = change(
  (id: number) => api.DELETE('/people/{id}/factors', { params: { path: { id } } }),
  ['people'],
  undefined,
  true,
)
const columns: Column<Schemas['Person']>[] = [
  { key: 'name', label: 'Name', text: (p) => p.name, always: true },
  { key: 'email', label: 'E-mail', text: (p) => p.email },
  { key: 'role', label: 'Role', text: (p) => p.role },
  { key: 'sees', label: 'Sees', text: sees },
  {
    key: 'account',
    label: 'Account',
    text: (p) =>
      (p.closed ? 'closed' : p.mustChangePassword ? 'one-time password' : 'open') +
      (p.endsOn && !p.closed ? `, until ${p.endsOn}` : ''),
  },
]
const changing = ref<Schemas['Person']>()
const editing = ref(false)
function edit(p: Schemas['Person']) {
  changing.value = p
  editing.value = true
}
async function close(p: Schemas['Person']) {
  const says =
    `${p.name} can no longer sign in. Sessions, tokens and feeds end at once. ` +
    'Their past activity stays in the records.'
  if (await sure('Close the account?', says, 'Close account'))
    await trouble.guard(() => put.mutateAsync({ id: p.id, body: { closed: true } }))
}
async function loseFactors(p: Schemas['Person']) {
  const says = `${p.name} signs in with the password alone until a new second factor is set up. All sessions end.`
  if (await sure('Remove the second factors?', says, 'Remove')) await trouble.guard(() => lose.mutateAsync(p.id))
}
async function renew(p: Schemas['Person']) {
  const says = `All sessions of ${p.name} end, and the old password no longer works.`
  if (await sure('Set a one-time password?', says, 'Set password')) await trouble.guard(() => fresh.mutateAsync(p.id))
}
</script>

<template>
  <p v-if="trouble.text.value" role="alert" class="trouble">{{ trouble.text.value }}</p>
  <DataTable
    :id="(p) => p.id"
    name="people"
    label="People"
    :rows="people"
    :columns="columns"
    :row-class="(p) => ({ soft: p.closed })"
  >
    <template #role="{ row: p }"
      ><ElSelect
        :model-value="p.role"
        size="small"
        class="role"
        :aria-label="`Role of ${p.name}`"
        :disabled="p.closed"
        @update:model-value="
          (role: Schemas['Role']) => trouble.guard(() => put.mutateAsync({ id: p.id, body: { role } }))
        "
        ><ElOption
          v-for="r in p.role === 'guest' ? ['guest', 'viewer', 'editor'] : ['viewer', 'editor', 'admin']"
          :key="r"
          :value="r"
          :label="r" /></ElSelect
    ></template>
    <template #actions="{ row: p }">
      <div v-if="p.id !== own" class="acts">
        <ElButton v-if="!p.closed" size="small" text :aria-label="`Change ${p.name}`" @click="edit(p)">Change</ElButton>
        <ElButton v-if="!p.closed" size="small" text @click="renew(p)">New password</ElButton>
        <ElButton
          v-if="!p.closed && p.secondFactor"
          size="small"
          text
          :aria-label="`Remove the second factors of ${p.name}`"
          @click="loseFactors(p)"
          >Factors</ElButton
        >
        <ElButton v-if="!p.closed" size="small" text @click="close(p)">Close</ElButton>
        <ElButton
          v-else
          size="small"
          text
          @click="trouble.guard(() => put.mutateAsync({ id: p.id, body: { closed: false } }))"
          >Reopen</ElButton
        >
      </div>
    </template>
  </DataTable>
  <PersonForm v-if="changing" v-model="editing" :person="changing" />
</template>

<style scoped>
.acts {
  white-space: nowrap;
}
.acts :deep(.el-button) {
  padding: 0 0.3rem;
  margin: 0;
}
.role {
  width: 7rem;
}
.trouble {
  color: var(--bad);
}
</style>
