<script setup lang="ts">
import { ElButton, ElMessage } from 'element-plus'
import { api, data, type Schemas } from '../../api/client'
import { useMany } from '../../composables/many'
import { some } from '../../composables/show'

/** What can be done with several sites: build their packs, have their published pages inspected. */
const props = defineProps<{ sites: Schemas['Site'][] }>()
const emit = defineEmits<{ clear: [] }>()
const { run, done, busy } = useMany<Schemas['Site']>((s) => s.name, 'site', ['sites', 'packs', 'inspections'])
type Act = (site: Schemas['Site']) => Promise<unknown>
async function all(what: string, act: Act) {
  const sites = props.sites
  if (!(await run(sites, act))) return
  ElMessage({ type: 'success', message: `${what} for ${some(sites.length, 'site')}.`, showClose: true })
  emit('clear')
}
const path = (s: Schemas['Site']) => ({ params: { path: { id: s.id } } })
const build: Act = (s) => data(api.POST('/sites/{id}/packs', path(s)))
const inspect: Act = (s) => data(api.POST('/sites/{id}/inspections', { ...path(s), body: {} }))
</script>

<template>
  <form class="row sheet bulk" aria-label="Actions for selected sites" @submit.prevent>
    <strong>{{ some(sites.length, 'site') }} selected</strong>
    <ElButton :disabled="busy" @click="all('Pack built', build)">Build packs</ElButton>
    <ElButton :disabled="busy" @click="all('Inspection started', inspect)">Inspect published pages</ElButton>
    <ElButton text @click="emit('clear')">Clear selection</ElButton>
    <span v-if="busy" class="soft small" role="status">{{ done }} of {{ sites.length }}</span>
  </form>
</template>
