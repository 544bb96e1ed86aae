<script setup lang="ts">
import { ElButton } from 'element-plus'
import { computed, toRef } from 'vue'
import type { Schemas } from '../api/client'
import { site } from '../api/queries'
import RolePreview from '../components/site/RolePreview.vue'
import RoleText from '../components/site/RoleText.vue'
import SiteHead from '../components/site/SiteHead.vue'
import Trouble from '../components/shared/Trouble.vue'
import { usePerson } from '../composables/person'
import { lookOf, pageWords, useRoleDraft } from '../composables/roledraft'
import { roles, sizeOf } from '../composables/roles'

/** The style guide of a site, in the client's words: its typefaces, its text styles, and a page set in them. */
const props = defineProps<{ id: number }>()
const { data: s, error } = site(toRef(props, 'id'))
const person = usePerson()
const none = { families: [], roles: [], replacements: [] } as unknown as Schemas['Site']
const draft = useRoleDraft(computed(() => s.value ?? none))
const words = computed(() => pageWords(s.value?.sampleText ?? ''))
const order = [
  'heading-1',
  'heading-2',
  'heading-3',
  'heading-4',
  'heading-5',
  'heading-6',
  ...roles.map((r) => r.value).filter((r) => !r.startsWith('heading')),
]
const shown = computed(() => {
  const at = (role: string) => (order.includes(role) ? order.indexOf(role) : order.length)
  return [...(s.value?.roles ?? [])].sort((a, b) => at(a.assignment.role) - at(b.assignment.role))
})
const textOf = (role: string) => (['body', 'lists', 'quotes'].includes(role) ? words.value.running : words.value.title)
/** What a stylesheet says of a role. */
function cssOf(r: Schemas['AssignedRole']) {
  const { slope, weight, fallbacks, role } = r.assignment
  const style = slope === 'normal' ? '' : `${slope} `
  return `font: ${style}${weight} ${sizeOf(role)}px/1.25 "${r.family.name}"${fallbacks.map((f) => `, ${f}`).join('')}`
}
/** The families in use, each with the faces that roles show. */
const typefaces = computed(() => {
  const out = new Map<number, { name: string; faces: Map<string, Schemas['AssignedRole']> }>()
  for (const r of s.value?.roles ?? []) {
    const one = out.get(r.family.id) ?? { name: r.family.name, faces: new Map() }
    one.faces.set(`${r.face || r.family.name} ${r.assignment.weight}`, r)
    out.set(r.family.id, one)
  }
  return [...out].map(([id, t]) => ({
    id,
    name: t.name,
    faces: [...t.faces.values()].sort((a, b) => a.assignment.weight - b.assignment.weight),
  }))
})
const alphabet = 'ABCDEFGHIJKLMNOPQRSTUVWXYZ abcdefghijklmnopqrstuvwxyz 0123456789 .,:;!?&@%()“”–'
const today = new Date().toLocaleDateString('en-US', { year: 'numeric', month: 'long', day: 'numeric' })
const print = () => window.print()
</script>

<template>
  <div class="page">
    <Trouble v-if="error" :error="error" />
    <template v-else-if="s">
      <div v-if="person?.role !== 'guest'" class="screen-only"><SiteHead :site="s" /></div>
      <p v-if="!s.roles.length" class="soft">
        No roles yet. <RouterLink :to="`/sites/${s.id}/roles`">Assign fonts</RouterLink> to see the style guide here.
      </p>
      <article v-else class="guide" :aria-label="`Style guide of ${s.name}`">
        <header class="cover">
          <div class="row split">
            <p class="soft small">{{ s.client.name }}</p>
            <ElButton class="screen-only" @click="print">Print</ElButton>
          </div>
          <RoleText :look="draft.look('heading-1') ?? draft.look('body')" :size="54" :text="s.name" />
          <p class="soft">
            Style guide, {{ today }}<template v-if="s.domains.length">. {{ s.domains.join(', ') }}</template>
          </p>
        </header>

        <section>
          <h2>Typefaces</h2>
          <div v-for="t in typefaces" :key="t.id" class="typeface">
            <div class="big"><RoleText :look="lookOf(t.faces.at(-1)!)" :size="120" text="Aa" short /></div>
            <div>
              <h3>{{ t.name }}</h3>
              <div v-for="f in t.faces" :key="f.assignment.role" class="weight">
                <p class="soft small label">
                  {{ f.face || 'Chosen by the platform' }}, {{ f.assignment.weight
                  }}<template v-if="f.assignment.slope !== 'normal'">, {{ f.assignment.slope }}</template>
                </p>
                <RoleText :look="lookOf(f)" :size="20" :text="alphabet" />
              </div>
            </div>
          </div>
        </section>

        <section>
          <h2>Text styles</h2>
          <div v-for="r in shown" :key="r.assignment.role" :class="['part', r.assignment.role]">
            <div class="label">
              <strong>{{ r.title }}</strong>
              <p class="soft small">
                {{ r.family.name }} {{ r.face }}, {{ r.assignment.weight
                }}<template v-if="r.assignment.slope !== 'normal'">, {{ r.assignment.slope }}</template>
              </p>
              <code v-if="r.selector" class="small">{{ r.selector }}</code>
            </div>
            <div class="text">
              <RoleText
                v-if="r.file"
                :look="lookOf(r)"
                :size="sizeOf(r.assignment.role)"
                :text="textOf(r.assignment.role)"
              />
              <span v-else class="soft small">{{ r.family.name }} {{ r.face }}, which has no file in the catalog</span>
              <code class="css small">{{ cssOf(r) }}</code>
            </div>
          </div>
        </section>

        <section class="inuse">
          <h2>On a page</h2>
          <RolePreview :look="draft.look" :sample="s.sampleText" :client="s.client.name" />
        </section>
        <p class="soft small made">
          Made with Spare Crate<template v-if="person"> by {{ person.name }}</template
          >.
        </p>
      </article>
    </template>
    <p v-else class="soft">Loading …</p>
  </div>
</template>

<style scoped>
.guide {
  background: var(--sheet);
  border: 1px solid var(--rule);
  padding: 2rem 2.4rem;
}
.cover {
  border-bottom: 1px solid var(--rule);
  padding-bottom: 1.6rem;
  margin-bottom: 1.6rem;
}
.split {
  justify-content: space-between;
}
.guide h2 {
  font-size: 1rem;
  color: var(--ink-soft);
  font-weight: 600;
  border-bottom: 1px solid var(--rule);
  padding-bottom: 0.4rem;
  margin: 2.2rem 0 1rem;
}
.typeface {
  display: grid;
  grid-template-columns: 12rem minmax(0, 1fr);
  gap: 0.5rem 1.8rem;
  align-items: start;
  margin-bottom: 1.4rem;
  break-inside: avoid;
}
.typeface h3 {
  margin: 0.4rem 0 0.6rem;
}
.weight {
  margin-bottom: 0.9rem;
}
.part {
  display: grid;
  grid-template-columns: 12rem minmax(0, 46rem);
  gap: 0.3rem 1.8rem;
  padding: 0.9rem 0;
  break-inside: avoid;
}
.part + .part {
  border-top: 1px solid var(--rule);
}
.label,
.label p {
  margin: 0;
}
code {
  font-family: ui-monospace, 'Liberation Mono', monospace;
  overflow-wrap: anywhere;
}
.css {
  display: block;
  color: var(--ink-soft);
  margin-top: 0.5rem;
}
.quotes .text > :first-child {
  border-left: 4px solid var(--rule);
  padding-left: 1rem;
}
.links .text > :first-child {
  text-decoration: underline;
}
.inuse {
  break-before: page;
}
.inuse :deep(h3) {
  visibility: hidden;
}
.made {
  margin: 2rem 0 0;
}
@media (max-width: 46rem) {
  .guide {
    padding: 1.2rem 1rem;
  }
  .part,
  .typeface {
    grid-template-columns: minmax(0, 1fr);
  }
}
@media print {
  .guide {
    border: 0;
    padding: 0;
  }
  .inuse :deep(.bar) {
    display: none;
  }
}
</style>
