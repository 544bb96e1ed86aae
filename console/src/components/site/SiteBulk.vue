<script setup lang="ts">
import { ElButton, ElMessage } from 'element-plus'
import { ref } from 'vue'
import { api, data, message, type Schemas } from '../../api/client'
import { change } from '../../api/queries'
import { some } from '../../composables/show'

/** What can be done with several sites: build their packs, have their published pages inspected. */
const props = defineProps<{ sites: Schemas['Site'][] }>()
const emit = defineEmits<{ clear: [] }>()
const done = ref(0)
const doing = ref('')
type Act = (site: Schemas['Site']) => Promise<unknown>
/** Goes on where one fails, and says what failed in the end. */
const each = change(
  async (act: Act) => {
    const sites = props.sites
    const failed: string[] = []
    for (done.value = 0; done.value < sites.length; done.value++) {
      const site = sites[done.value]!
      try {
        await act(site)
      } catch (e) {
        failed.push(`${site.name}: ${message(e)}`)
      }
    }
    return { failed, of: sites.length }
  },
  ['sites', 'packs', 'inspections'],
)
async function run(what: string, act: Act) {
  doing.value = what
  const { failed, of } = await each.mutateAsync(act)
  ElMessage({
    type: failed.length ? 'warning' : 'success',
    message: [`${what} for ${some(of - failed.length, 'site')}.`, ...failed].join(' '),
    duration: failed.length ? 15000 : 5000,
    showClose: true,
  })
  if (!failed.length) emit('clear')
}
const path = (s: Schemas['Site']) => ({ params: { path: { id: s.id } } })
const build: Act = (s) => data(api.POST('/sites/{id}/packs', path(s)))
const inspect: Act = (s) => data(api.POST('/sites/{id}/inspections', { ...path(s), body: {} }))
</script>

<template>
  <form class="row sheet bulk" aria-label="Actions for selected sites" @submit.prevent>
    <strong>{{ some(sites.length, 'site') }} selected</strong>
    <ElButton :disabled="each.isPending.value" @click="run('Pack built', build)">Build packs</ElButton>
    <ElButton :disabled="each.isPending.value" @click="run('Inspection started', inspect)"
      >Inspect published pages</ElButton
    >
    <ElButton text @click="emit('clear')">Clear selection</ElButton>
    <span v-if="each.isPending.value" class="soft small" role="status">{{ done }} of {{ sites.length }}</span>
  </form>
</template>

<style scoped>
.bulk {
  position: sticky;
  top: 0;
  z-index: 2;
  margin-bottom: 0.6rem;
}
</style>
