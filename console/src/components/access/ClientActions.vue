<script setup lang="ts">
import { ElButton } from 'element-plus'
import { api, data, type Schemas } from '../../api/client'
import { change } from '../../api/queries'
import { saveBlob } from '../../composables/builder'
import { useTrouble } from '../../composables/form'
import TimeAgo from '../shared/TimeAgo.vue'
import { sure } from '../../composables/ask'

/** The archive of a client, and the buttons that close and reopen it. */
const props = defineProps<{ client: Schemas['Client']; mayEdit: boolean; admin: boolean }>()
const trouble = useTrouble()
const path = { params: { path: { id: props.client.id } } }
const archive = change(
  async () => {
    const zip = await data(api.POST('/clients/{id}/archive', { ...path, parseAs: 'blob' }))
    saveBlob(zip as unknown as Blob, `${props.client.name} archive.zip`)
  },
  ['clients'],
  undefined,
  true,
)
const close = change(
  () => data(api.POST('/clients/{id}/closing', path)),
  ['clients', 'families', 'sites', 'due'],
  undefined,
  true,
)
const reopen = change(
  () => data(api.DELETE('/clients/{id}/closing', path)),
  ['clients', 'families', 'sites', 'due'],
  undefined,
  true,
)
async function ask() {
  const says =
    `The families of ${props.client.name} are retired, its sites get no packs, and its items leave the home page. ` +
    'Published fonts are not affected. An admin can reopen it.'
  if (await sure(`Close ${props.client.name}?`, says, 'Close the client'))
    await trouble.guard(() => close.mutateAsync(undefined))
}
</script>

<template>
  <div class="row">
    <ElButton
      v-if="mayEdit"
      :loading="archive.isPending.value"
      :aria-label="`Archive ${client.name}`"
      @click="trouble.guard(() => archive.mutateAsync(undefined))"
      >Download archive</ElButton
    >
    <ElButton v-if="admin && !client.studio && !client.closedAt" :aria-label="`Close ${client.name}`" @click="ask"
      >Close client</ElButton
    >
    <ElButton
      v-if="admin && client.closedAt"
      :aria-label="`Reopen ${client.name}`"
      @click="trouble.guard(() => reopen.mutateAsync(undefined))"
      >Reopen client</ElButton
    >
    <span v-if="client.archivedAt" class="soft small">archived <TimeAgo :at="client.archivedAt" /></span>
    <span v-if="client.closedAt" class="small closed"
      >closed by {{ client.closedBy }}, <TimeAgo :at="client.closedAt"
    /></span>
    <p v-if="trouble.text.value" role="alert" class="trouble small">{{ trouble.text.value }}</p>
  </div>
</template>

<style scoped>
.closed {
  color: var(--caution);
}
.trouble {
  color: var(--bad);
  width: 100%;
  margin: 0;
}
</style>
