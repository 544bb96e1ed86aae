<script setup lang="ts">
import { ElButton, ElMessage } from 'element-plus'
import { computed } from 'vue'
import { api, data } from '../../api/client'
import { change, me, settings } from '../../api/queries'
import { bytes, some, when } from '../../composables/show'
import Trouble from '../shared/Trouble.vue'

/** How the service is set up: e-mail, storage, schedules, sign-in. It is set where the service is started. */
const { data: s, error } = settings()
const { data: person } = me()
const kinds = { originals: 'Font files', documents: 'Documents', converted: 'Converted files', packs: 'Packs' }
const total = computed(() => s.value?.stored.reduce((sum, k) => sum + k.bytes, 0) ?? 0)
const send = change(
  () => data(api.POST('/due/mail')),
  [],
  () => ElMessage({ type: 'success', message: `An e-mail is on its way to ${person.value?.email}.` }),
)
const minutes = (n: number) => (n % 1440 ? some(n / 60, 'hour') : some(n / 1440, 'day'))
</script>

<template>
  <Trouble v-if="error" :error="error" />
  <template v-else-if="s">
    <p class="soft small">
      These settings are flags and variables of the service; <code>sparecrate serve --help</code> lists them.
    </p>
    <h2>E-mail</h2>
    <dl class="metadata">
      <dt>Mail server</dt>
      <dd>{{ s.mail.server || 'None, so no e-mail is sent. Set one with --mail-server.' }}</dd>
      <template v-if="s.mail.server">
        <dt>Sender</dt>
        <dd>{{ s.mail.from }}</dd>
        <dt>Encrypted</dt>
        <dd>{{ s.mail.encrypted ? 'Yes' : 'No' }}</dd>
      </template>
      <dt>Weekly e-mail</dt>
      <dd>{{ some(s.mail.weekly, 'subscriber') }}</dd>
      <dt>Address in e-mails</dt>
      <dd>{{ s.address }}</dd>
    </dl>
    <ElButton v-if="s.mail.server" :loading="send.isPending.value" @click="send.mutate(undefined)"
      >Send me what needs attention now</ElButton
    >
    <h2>Storage</h2>
    <div class="wide">
      <table class="plain storage">
        <thead>
          <tr>
            <th scope="col">What</th>
            <th scope="col" class="num">Files</th>
            <th scope="col" class="num">Size</th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="k in s.stored" :key="k.what">
            <td>{{ kinds[k.what] }}</td>
            <td class="num">{{ k.files.toLocaleString() }}</td>
            <td class="num">{{ bytes(k.bytes) }}</td>
          </tr>
        </tbody>
        <tfoot>
          <tr>
            <td>All</td>
            <td></td>
            <td class="num">{{ bytes(total) }}</td>
          </tr>
        </tfoot>
      </table>
    </div>
    <p class="small">
      <template v-if="s.free !== undefined">{{ bytes(s.free) }} are free. </template>Largest font
      {{ bytes(s.limits.fontBytes) }}, document {{ bytes(s.limits.documentBytes) }}, archive
      {{ bytes(s.limits.archiveBytes) }}.
    </p>
    <h2>Schedules</h2>
    <ul class="list small">
      <li v-for="k in s.schedules" :key="k.name" class="line">
        {{ k.name }}: {{ k.every }}<template v-if="k.next">, next {{ when(k.next) }}</template>
      </li>
    </ul>
    <h2>Backup</h2>
    <p v-if="s.backup" class="small">
      The last one with everything in it is of {{ when(s.backup.at) }}, in {{ s.backup.place }}:
      {{ s.backup.files.toLocaleString('en') }} files, {{ bytes(s.backup.bytes) }},
      {{ s.backup.encrypted ? 'encrypted' : 'not encrypted' }}.
    </p>
    <p v-else class="small">
      None was made yet. Run <code>sparecrate backup</code>, or start the service with <code>--backup</code>.
    </p>
    <h2>Sign-in</h2>
    <dl class="metadata">
      <dt>Method</dt>
      <dd>E-mail address and password</dd>
      <dt>Session ends</dt>
      <dd>
        {{ minutes(s.signIn.idleMinutes) }} after its last use, at the latest after
        {{ minutes(s.signIn.longestMinutes) }}
      </dd>
      <dt>Cookies</dt>
      <dd>{{ s.signIn.secure ? 'Over HTTPS only' : 'Also without HTTPS. Behind a proxy with HTTPS set --secure.' }}</dd>
    </dl>
  </template>
  <p v-else class="soft">Loading …</p>
</template>

<style scoped>
.storage {
  max-width: 30rem;
}
tfoot td {
  font-weight: 600;
}
.line {
  padding: 0.35rem 0;
}
</style>
