<script setup lang="ts">
import { ElButton, ElProgress } from 'element-plus'
import { computed } from 'vue'
import { api, data as dataOf } from '../../api/client'
import { change, jobs, me } from '../../api/queries'
import TimeAgo from './TimeAgo.vue'

const { data } = jobs()
const { data: person } = me()
const open = computed(() => data.value?.items.filter((j) => j.state !== 'done') ?? [])
const busy = computed(() => (data.value?.waiting ?? 0) + (data.value?.running ?? 0))
const retry = change(
  (id: number) => dataOf(api.POST('/jobs/{id}/retry', { params: { path: { id } } })),
  ['jobs', 'families'],
)
</script>

<template>
  <section v-if="data" class="sheet" aria-live="polite">
    <p class="sum">
      <strong v-if="busy">{{ data.running }} running, {{ data.waiting }} waiting</strong
      ><span v-else>No background jobs are waiting.</span>
      <span v-if="data.failed" class="failed">{{ data.failed }} failed</span>
    </p>
    <ul v-if="open.length" class="list small">
      <li v-for="j in open" :key="j.id" class="row job">
        <span class="title">{{ j.title }}</span>
        <ElProgress
          v-if="j.state === 'running' && j.total"
          :percentage="Math.round((100 * j.done) / j.total)"
          class="bar"
        />
        <span v-else class="soft"
          >{{ j.state === 'failed' ? 'failed' : j.state === 'running' ? 'at work' : 'waiting' }},
          <TimeAgo :at="j.createdAt"
        /></span>
        <span v-if="j.why" class="failed">{{ j.why }}</span>
        <ElButton v-if="j.state === 'failed' && person?.role !== 'viewer'" size="small" @click="retry.mutate(j.id)"
          >Retry</ElButton
        >
      </li>
    </ul>
  </section>
</template>

<style scoped>
.sheet {
  margin-bottom: 1.5rem;
}
.sum {
  margin: 0;
  display: flex;
  gap: 1rem;
}
.failed {
  color: var(--bad);
}
.job {
  padding: 0.4rem 0;
}
.title {
  min-width: 18rem;
}
.bar {
  width: 14rem;
}
</style>
