<script setup lang="ts">
import { computed, toRef } from 'vue'
import { site } from '../api/queries'
import FaceSample from '../components/face/FaceSample.vue'
import SiteHead from '../components/site/SiteHead.vue'
import Trouble from '../components/shared/Trouble.vue'
import { sizeOf } from '../composables/roles'

/** The roles of a site together, in the client's words, as a page would show them. */
const props = defineProps<{ id: number }>()
const { data: s, error } = site(toRef(props, 'id'))
const words = computed(() => s.value?.sampleText || 'Quick zephyrs blow, vexing daft Jim')
const running = computed(() => `${words.value}. ${words.value}; 0123456789 – ${words.value}.`)
const order = [
  'navigation',
  'heading-1',
  'heading-2',
  'heading-3',
  'heading-4',
  'heading-5',
  'heading-6',
  'body',
  'links',
  'lists',
  'quotes',
  'captions',
  'code',
  'buttons',
]
const shown = computed(() => {
  const place = (role: string) => (order.includes(role) ? order.indexOf(role) : order.length)
  return [...(s.value?.roles ?? [])].sort((a, b) => place(a.assignment.role) - place(b.assignment.role))
})
const textOf = (role: string) => (['body', 'lists', 'quotes'].includes(role) ? running.value : words.value)
const families = computed(() => {
  const seen = new Map<string, Set<string>>()
  for (const r of s.value?.roles ?? [])
    seen.set(r.family.name, (seen.get(r.family.name) ?? new Set()).add(`${r.face || '?'} ${r.assignment.weight}`))
  return [...seen].map(([name, faces]) => `${name}: ${[...faces].join(', ')}`)
})
</script>

<template>
  <div class="page">
    <Trouble v-if="error" :error="error" />
    <template v-else-if="s">
      <SiteHead :site="s" />
      <p v-if="!s.roles.length" class="soft">
        No role yet. <RouterLink :to="`/sites/${s.id}/roles`">Assign fonts</RouterLink>to see the roles here.
      </p>
      <article v-else class="guide" :aria-label="`Style guide of ${s.name}`">
        <p class="soft small">{{ s.client.name }}, {{ s.name }}. {{ families.join('; ') }}.</p>
        <section v-for="r in shown" :key="r.assignment.role" :class="['part', r.assignment.role]">
          <p class="soft small label">
            {{ r.title }}<br />{{ r.assignment.weight
            }}<template v-if="r.assignment.slope !== 'normal'">, {{ r.assignment.slope }}</template>
          </p>
          <FaceSample
            v-if="r.file"
            :file-id="r.file"
            format=""
            :place="r.place ?? 0"
            :size="sizeOf(r.assignment.role)"
            :text="textOf(r.assignment.role)"
            :variations="`'wght' ${r.assignment.weight}`"
            wrap
            class="text"
          />
          <span v-else class="soft small text">{{ r.family.name }} {{ r.face }}, which has no file here</span>
        </section>
      </article>
    </template>
    <p v-else class="soft">Loading …</p>
  </div>
</template>

<style scoped>
.guide {
  background: var(--sheet);
  border: 1px solid var(--rule);
  padding: 1.5rem 1.75rem;
}
.part {
  display: grid;
  grid-template-columns: 8rem minmax(0, 42rem);
  gap: 0.3rem 1.5rem;
  padding: 0.55rem 0;
  align-items: baseline;
}
.label {
  margin: 0;
}
.quotes .text {
  border-left: 4px solid var(--rule);
  padding-left: 1rem;
}
.buttons .text {
  border: 1.5px solid var(--sea);
  border-radius: 3px;
  padding: 0.3rem 1rem;
  justify-self: start;
}
.links .text {
  color: var(--sea);
  text-decoration: underline;
}
@media (max-width: 46rem) {
  .part {
    grid-template-columns: minmax(0, 1fr);
  }
}
@media print {
  .guide {
    border: 0;
    padding: 0;
  }
}
</style>
