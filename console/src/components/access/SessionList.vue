<script setup lang="ts">
import { ElButton, ElCheckbox } from 'element-plus'
import { ref } from 'vue'
import { api, data, type Schemas } from '../../api/client'
import { change, sessions } from '../../api/queries'
import { sure } from '../../composables/ask'
import { when } from '../../composables/show'
import type { Column } from '../../composables/table'
import DataTable from '../shared/DataTable.vue'
import TimeAgo from '../shared/TimeAgo.vue'

/** Where a person is signed in with a browser, and where everybody is for an admin; any can be ended. */
defineProps<{ admin: boolean }>()
const everyone = ref(false)
const { data: found } = sessions(everyone)
const end = change(
  (id: number) => data(api.DELETE('/sessions/{id}', { params: { path: { id } } })),
  ['sessions', 'session'],
)
async function ask(s: Schemas['SignedIn']) {
  const says = s.current
    ? 'This is the session you use now: you are signed out.'
    : 'Whoever uses it has to sign in again.'
  if (await sure('End this session?', says, 'End session')) end.mutate(s.id)
}
const columns: Column<Schemas['SignedIn']>[] = [
  { key: 'browser', label: 'Browser', text: (s) => s.browser || 'Unknown', always: true },
  { key: 'person', label: 'Person', text: (s) => s.person.name },
  { key: 'address', label: 'Address', text: (s) => s.address },
  { key: 'started', label: 'Started', text: (s) => when(s.startedAt), by: (s) => s.startedAt },
  { key: 'seen', label: 'Last used', text: (s) => when(s.seenAt), by: (s) => s.seenAt },
]
</script>

<template>
  <h2>Sessions</h2>
  <DataTable
    :id="(s) => s.id"
    name="sessions"
    label="Sessions"
    :rows="found?.items ?? []"
    :columns="columns"
    row-class="session"
  >
    <template v-if="admin" #tools><ElCheckbox v-model="everyone" label="Show everyone’s" /></template>
    <template #browser="{ row: s }"
      >{{ s.browser || 'Unknown' }}<span v-if="s.current" class="soft small"> this one</span></template
    >
    <template #started="{ row: s }"><TimeAgo :at="s.startedAt" /></template>
    <template #seen="{ row: s }"><TimeAgo :at="s.seenAt" /></template>
    <template #actions="{ row: s }"><ElButton size="small" text @click="ask(s)">End</ElButton></template>
  </DataTable>
</template>
