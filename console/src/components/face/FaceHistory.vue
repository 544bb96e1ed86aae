<script setup lang="ts">
import { computed } from 'vue'
import type { Schemas } from '../../api/client'
import { activity } from '../../api/queries'
import TimeAgo from '../shared/TimeAgo.vue'

/** What happened to a face: its files as they came and went, and what people did with its family. */
const props = defineProps<{ face: Schemas['Face']; family: string }>()
const { data: log } = activity(computed(() => ({ q: props.family })))
interface Event {
  at: string
  person: string
  what: string
  detail?: string
}
const events = computed(() => {
  const files = props.face.files.flatMap((f): Event[] => [
    { at: f.addedAt, person: f.addedBy, what: `added the file ${f.name}`, detail: f.version },
    ...(f.removedAt ? [{ at: f.removedAt, person: f.removedBy ?? '', what: `removed the file ${f.name}` }] : []),
  ])
  const done = (log.value?.pages.flatMap((p) => p.items) ?? []).map((a): Event => ({
    at: a.at,
    person: a.person,
    what: `${a.action}: ${a.subject}`,
    detail: a.detail || undefined,
  }))
  return [...files, ...done].sort((a, b) => b.at.localeCompare(a.at)).slice(0, 60)
})
</script>

<template>
  <ul class="list">
    <li v-for="(e, i) in events" :key="i" class="event">
      <TimeAgo class="soft small" :at="e.at" />
      <div>
        <strong>{{ e.person }}</strong> {{ e.what }}
        <div v-if="e.detail" class="soft small">{{ e.detail }}</div>
      </div>
    </li>
  </ul>
  <RouterLink class="small" :to="{ path: '/activity', query: { q: family } }">All activity of {{ family }}</RouterLink>
</template>

<style scoped>
.event {
  display: grid;
  grid-template-columns: 8rem minmax(0, 1fr);
  gap: 0.2rem 1rem;
  padding: 0.45rem 0;
}
.event div {
  overflow-wrap: anywhere;
}
@media (max-width: 40rem) {
  .event {
    grid-template-columns: minmax(0, 1fr);
  }
}
</style>
