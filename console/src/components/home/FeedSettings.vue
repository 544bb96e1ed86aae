<script setup lang="ts">
import { ElAlert, ElButton, ElCheckbox } from 'element-plus'
import { ref } from 'vue'
import { api, data } from '../../api/client'
import { change, feeds, me } from '../../api/queries'
import { when } from '../../composables/show'
import TimeAgo from '../shared/TimeAgo.vue'
import { sure } from '../../composables/ask'

/** The due list in a calendar and by e-mail. */
const { data: person } = me()
const { data: own } = feeds()
const address = ref('')
const make = change(
  () => data(api.POST('/feeds')),
  ['feeds'],
  (f) => (address.value = location.origin + f.path),
)
const revoke = change((id: number) => api.DELETE('/feeds/{id}', { params: { path: { id } } }), ['feeds'])
const weekly = change((on: boolean) => data(api.PUT('/session/weekly', { body: { weekly: on } })), ['session'])
async function ask(id: number) {
  const says = 'Calendars that read it get no more updates. This cannot be undone.'
  if (await sure('Revoke this calendar URL?', says, 'Revoke')) revoke.mutate(id)
}
</script>

<template>
  <details class="sheet elsewhere">
    <summary>Calendar feed and weekly e-mail</summary>
    <h3>Calendar</h3>
    <p class="soft small">
      A calendar program can subscribe to the end dates of licenses and sign-offs with a secret URL. Anyone who has the
      URL sees them with your rights.
    </p>
    <ul class="list">
      <li v-for="f in own ?? []" :key="f.id" class="row line">
        <span>Feed {{ f.id }}</span
        ><span class="soft small"
          >made <TimeAgo :at="f.createdAt" />, {{ f.readAt ? `last read ${when(f.readAt)}` : 'not read yet' }}</span
        ><ElButton size="small" text @click="ask(f.id)">Revoke</ElButton>
      </li>
    </ul>
    <ElButton @click="make.mutate(undefined)">Create a feed URL</ElButton>
    <ElAlert
      v-if="address"
      type="success"
      :title="address"
      description="Copy this into your calendar program now. It is not shown again."
      class="address"
      @close="address = ''"
    />
    <h3>E-mail</h3>
    <ElCheckbox
      :model-value="person?.weekly"
      :disabled="weekly.isPending.value"
      @change="weekly.mutate(Boolean($event))"
      >Send me this list every week, to {{ person?.email }}</ElCheckbox
    >
  </details>
</template>

<style scoped>
.elsewhere {
  margin-top: 2rem;
}
summary {
  cursor: pointer;
  color: var(--sea);
}
h3 {
  font-size: 0.95rem;
  margin: 1rem 0 0.3rem;
}
.line {
  padding: 0.35rem 0;
}
.address {
  margin-top: 0.6rem;
  overflow-wrap: anywhere;
}
</style>
