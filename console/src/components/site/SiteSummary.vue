<script setup lang="ts">
import { computed, toRef } from 'vue'
import type { Schemas } from '../../api/client'
import { inspections, packs, views } from '../../api/queries'
import { some } from '../../composables/show'
import TimeAgo from '../shared/TimeAgo.vue'

/** A site at a glance: may its fonts go out, is the pack up to date, what the last inspection found, its page views. */
const props = defineProps<{ site: Schemas['Site'] }>()
const id = toRef(() => props.site.id)
const { data: built } = packs(id)
const { data: inspected } = inspections(id)
const { data: counted } = views(id)

const fonts = computed(() => {
  const of = (state: string) => props.site.families.filter((f) => f.verdict === state && !f.signOff).length
  const signed = props.site.families.filter((f) => f.signOff).length
  const parts = [
    of('blocked') && `${of('blocked')} blocked`,
    of('review') && `${of('review')} need${of('review') === 1 ? 's' : ''} review`,
    of('cleared') && `${of('cleared')} cleared`,
    signed && `${signed} signed off`,
  ].filter(Boolean)
  if (!props.site.families.length) return { says: 'No fonts yet', tone: '' }
  return { says: parts.join(', '), tone: of('blocked') ? 'bad' : of('review') ? 'caution' : 'good' }
})
const pack = computed(() => {
  const last = built.value?.items[0]
  if (!last) return { says: 'Not built yet', tone: '', at: '', by: '' }
  const old = props.site.outdated.length
  return {
    says: old ? 'Out of date' : 'Up to date',
    tone: old ? 'caution' : 'good',
    at: last.createdAt,
    by: last.createdBy,
  }
})
const inspection = computed(() => {
  const all = inspected.value?.items
  const last = all?.find((i) => i.state === 'done' || i.state === 'failed')
  if (!last) return { says: all?.length ? 'In progress' : 'Never inspected', tone: '', at: '', id: 0 }
  const found = [last.errors && some(last.errors, 'error'), last.warnings && some(last.warnings, 'warning')]
  const says = last.state === 'failed' ? 'Failed' : found.filter(Boolean).join(', ') || 'No problems found'
  const tone = last.state === 'failed' || last.errors ? 'bad' : last.warnings ? 'caution' : 'good'
  return { says, tone, at: last.endedAt ?? last.askedAt, id: last.id }
})
const month = computed(() => counted.value?.months.at(-1))
</script>

<template>
  <dl class="glance" aria-label="Overview">
    <div>
      <dt>Fonts</dt>
      <dd :class="fonts.tone">{{ fonts.says }}</dd>
    </div>
    <div>
      <dt>Pack</dt>
      <dd :class="pack.tone">
        <RouterLink :to="`/sites/${site.id}/pack`">{{ pack.says }}</RouterLink>
      </dd>
      <dd v-if="pack.at" class="soft small">built <TimeAgo :at="pack.at" /> by {{ pack.by }}</dd>
    </div>
    <div>
      <dt>Last inspection</dt>
      <dd :class="inspection.tone">
        <RouterLink :to="inspection.id ? `/inspections/${inspection.id}` : `/sites/${site.id}/inspections`">{{
          inspection.says
        }}</RouterLink>
      </dd>
      <dd v-if="inspection.at" class="soft small"><TimeAgo :at="inspection.at" /></dd>
    </div>
    <div>
      <dt>Page views</dt>
      <dd>{{ month ? month.views.toLocaleString('en-US') : 'None entered' }}</dd>
      <dd class="soft small">{{ month?.month }}</dd>
    </div>
  </dl>
</template>

<style scoped>
.glance {
  display: grid;
  grid-template-columns: repeat(auto-fit, minmax(11rem, 1fr));
  gap: 0.8rem;
  margin: 0 0 1.4rem;
}
.glance > div {
  background: var(--sheet);
  border: 1px solid var(--rule);
  padding: 0.7rem 0.9rem;
}
dt {
  color: var(--ink-soft);
  font-size: 0.88rem;
}
dd {
  margin: 0;
  font-weight: 600;
}
dd.small {
  font-weight: 400;
}
dd.good,
dd.good a {
  color: var(--good);
}
dd.caution,
dd.caution a {
  color: var(--caution);
}
dd.bad,
dd.bad a {
  color: var(--bad);
}
</style>
