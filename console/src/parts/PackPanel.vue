<script setup lang="ts">
import { ElButton } from 'element-plus'
import { computed, toRef } from 'vue'
import { api, base, data as dataOf } from '../api/client'
import { change, packs, plan } from '../api/queries'
import { bytes, when } from '../state/show'
import Trouble from './Trouble.vue'

const props = defineProps<{ id: number; mayEdit: boolean; empty: boolean }>()
const { data: p, error, isFetching } = plan(toRef(props, 'id'))
const { data: built } = packs(toRef(props, 'id'))
const stopped = computed(() => p.value?.site.families.filter((f) => !f.mayGoOut).map((f) => `${f.family.name} is ${f.verdict}`).join('; '))
const build = change(() => dataOf(api.POST('/sites/{id}/packs', { params: { path: { id: props.id } } })), ['sites'], (pack) => {
  location.assign(`${base}/packs/${pack.id}/content`)
})
</script>

<template>
  <h2>Pack</h2>
  <p v-if="empty" class="soft">Put a family on this site first; then the plan of its pack shows here.</p>
  <template v-else>
    <Trouble v-if="error" :error="error" />
    <template v-if="p">
      <div class="row">
        <ElButton v-if="mayEdit" type="primary" :disabled="!p.ready || isFetching" :loading="build.isPending.value" @click="build.mutate(undefined)">Build and download</ElButton>
        <span v-if="isFetching" class="soft small">Laying out the pack anew …</span>
        <span v-else-if="!p.ready" class="alarm">Stopped: {{ stopped }}.</span>
        <span v-else class="soft small">A visitor downloads {{ bytes(p.delivered) }} when a page uses every face.</span>
      </div>
      <div class="wide" :class="{ stale: isFetching }">
        <table class="plain small">
          <thead><tr><th>File</th><th class="num">Size</th><th>Why</th></tr></thead>
          <tbody><tr v-for="f in p.files" :key="f.path"><td>{{ f.path }}</td><td class="num">{{ bytes(f.bytes) }}</td><td class="soft">{{ f.why }}</td></tr></tbody>
        </table>
      </div>
      <details><summary>The stylesheet</summary><pre class="small">{{ p.stylesheet }}</pre></details>
    </template>
    <p v-else-if="!error" class="soft">Laying out the pack …</p>
    <template v-if="built?.items.length">
      <h2>Built before</h2>
      <ul class="list small"><li v-for="b in built.items" :key="b.id" class="row built"><a :href="`${base}/packs/${b.id}/content`">{{ b.name }}</a><span class="soft">{{ bytes(b.bytes) }}, {{ b.createdBy }}, {{ when(b.createdAt) }}, SHA-256 {{ b.sha256.slice(0, 12) }}…</span></li></ul>
    </template>
  </template>
</template>

<style scoped>
.wide { margin-top: 0.8rem; }
.stale { opacity: 0.5; }
.alarm { color: var(--barred); font-weight: 600; }
pre { overflow-x: auto; background: var(--sheet); border: 1px solid var(--rule); padding: 0.8rem; }
summary { cursor: pointer; color: var(--sea); padding: 0.4rem 0; }
.built { padding: 0.35rem 0; }
</style>
