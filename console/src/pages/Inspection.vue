<script setup lang="ts">
import { computed, nextTick, ref, toRef, watch } from 'vue'
import { base, type Schemas } from '../api/client'
import { inspectedPage, inspection, me } from '../api/queries'
import FindingList from '../components/inspection/FindingList.vue'
import FontsOnPage from '../components/inspection/FontsOnPage.vue'
import PagePicture from '../components/inspection/PagePicture.vue'
import ProposedSite from '../components/inspection/ProposedSite.vue'
import Trouble from '../components/shared/Trouble.vue'
import { pinned } from '../composables/inspected'
import { bytes, some, when } from '../composables/show'

/** One inspection: what changed, what text is set in, and each page with its findings pinned to its picture. */
const props = defineProps<{ id: number }>()
const id = toRef(props, 'id')
const { data: r, error } = inspection(id)
const { data: person } = me()
const mayEdit = computed(() => person.value?.role !== 'viewer')
const place = ref(0)
watch(id, () => (place.value = 0))
const hasPages = computed(() => !!r.value?.pages.length)
const { data: page } = inspectedPage(id, place, hasPages)
const kept = computed(() => r.value?.pages.find((p) => p.place === place.value))
const ofSite = computed(() => r.value?.findings.filter((f) => !f.page) ?? [])
const pins = computed(() => new Map(page.value ? pinned(page.value).map((p) => [p.finding, p.number]) : []))
const under = computed(() => ['waiting', 'running'].includes(r.value?.inspection.state ?? ''))
const file = (format: string) => `${base}/inspections/${props.id}/file?format=${format}`
/** The rule that a font of the pages could be imported by. */
const ruleOf = (f: Schemas['FamilyOnPages']) =>
  f
    .files!.map((u) => `@font-face { font-family: ${JSON.stringify(f.name)}; src: url(${JSON.stringify(u)}); }`)
    .join('\n')
function open(n: number) {
  void nextTick(() => document.getElementById(`finding-${n}`)?.scrollIntoView({ block: 'center' }))
}
function point() {
  document.querySelector('.picture')?.scrollIntoView({ block: 'start' })
}
</script>

<template>
  <div class="page">
    <Trouble v-if="error" :error="error" />
    <template v-else-if="r">
      <div class="head">
        <div>
          <p class="soft small crumb">
            <RouterLink to="/sites">Sites</RouterLink> /
            <RouterLink :to="`/sites/${r.inspection.site.id}/inspections`">{{ r.inspection.site.name }}</RouterLink>
          </p>
          <h1>Inspection of {{ when(r.inspection.askedAt) }}</h1>
          <div class="soft">
            <template v-if="under">Running, {{ some(r.inspection.pages, 'page') }} so far …</template>
            <template v-else-if="r.inspection.state === 'failed'">Failed</template>
            <template v-else
              >{{ some(r.inspection.pages, 'page') }}, fonts of {{ bytes(r.inspection.bytes) }};
              {{ some(r.inspection.errors, 'error') }}, {{ some(r.inspection.warnings, 'warning') }},
              {{ some(r.inspection.notes, 'note')
              }}<template v-if="r.inspection.accepted">; {{ r.inspection.accepted }} accepted</template>;
              {{ r.inspection.fresh }} new, {{ r.inspection.gone }} gone</template
            >
          </div>
        </div>
        <div v-if="r.inspection.state === 'done'" class="row small">
          <a :href="`/inspections/${id}/print`" target="_blank">Print</a><a :href="file('json')">JSON</a
          ><a :href="file('sarif')">SARIF</a><a :href="file('junit')">JUnit</a>
        </div>
      </div>
      <p v-if="r.inspection.error" role="alert" class="trouble">{{ r.inspection.error }}</p>
      <section v-if="r.families.length" aria-label="Families">
        <h2>Fonts in use</h2>
        <div class="wide">
          <table class="plain">
            <thead>
              <tr>
                <th>Family</th>
                <th>From</th>
                <th>In the catalog</th>
                <th class="num">Pages</th>
                <th class="num">Characters</th>
              </tr>
            </thead>
            <tbody>
              <tr v-for="f in r.families" :key="f.name + f.webFont">
                <td>{{ f.name }}</td>
                <td>
                  <template v-if="f.webFont"
                    >web font<template v-if="f.bytes">, {{ bytes(f.bytes) }}</template></template
                  ><template v-else>system font</template>
                </td>
                <td>
                  <template v-if="f.family"
                    ><RouterLink :to="`/families/${f.family.id}`">{{ f.family.name }}</RouterLink
                    >, {{ f.verdict }} <span v-if="f.why" class="soft small">{{ f.why }}</span></template
                  ><template v-else-if="f.webFont && f.files?.length"
                    >not in the catalog;
                    <RouterLink :to="{ path: '/imports', query: { paste: ruleOf(f) } }">import</RouterLink></template
                  >
                </td>
                <td class="num">{{ f.pages }}</td>
                <td class="num">{{ f.characters }}</td>
              </tr>
            </tbody>
          </table>
        </div>
      </section>
      <section v-if="ofSite.length" aria-label="The site as a whole">
        <h2>The site as a whole</h2>
        <FindingList :findings="ofSite" :may-edit="mayEdit" />
      </section>
      <ProposedSite v-if="r.proposal" :proposal="r.proposal" :site-id="r.inspection.site.id" :may-edit="mayEdit" />
      <section v-if="r.pages.length" aria-label="Pages">
        <h2>Pages</h2>
        <nav class="pages" aria-label="Pages of this inspection">
          <button
            v-for="p in r.pages"
            :key="p.place"
            type="button"
            :aria-pressed="p.place === place"
            @click="place = p.place"
          >
            <span class="url">{{ p.title || p.url }}</span><span class="small">{{
              p.errors + p.warnings + p.notes ? `${p.errors} / ${p.warnings} / ${p.notes}` : 'nothing found'
            }}</span>
          </button>
        </nav>
        <template v-if="page && kept">
          <p class="soft small where">
            {{ page.final }}<template v-if="page.status && page.status !== 200">, answers {{ page.status }}</template
            >; last text after {{ page.finalTextMs }} ms<template v-if="page.fontShift >= 0.001"
              >, layout shift by fonts {{ page.fontShift.toFixed(3) }}</template
            >
          </p>
          <div class="beside">
            <PagePicture v-if="kept.picture" :inspection="id" :page="page" class="shot" @open="open" />
            <p v-else class="soft">
              The picture of this page is no longer stored; only those of the two newest inspections are.
            </p>
            <div class="found">
              <p v-if="!page.findings.length">No problems found on this page.</p>
              <FindingList :findings="page.findings" :may-edit="mayEdit" :pins="pins" @point="point" />
            </div>
          </div>
          <FontsOnPage :page="page" />
        </template>
      </section>
      <section v-if="r.gone.length" aria-label="Gone">
        <h2>Resolved</h2>
        <FindingList :findings="r.gone" :may-edit="false" page />
      </section>
      <section v-if="r.left.length">
        <h2>Not inspected</h2>
        <ul class="small">
          <li v-for="l in r.left.slice(0, 30)" :key="l.url" class="where">
            {{ l.url }} <span class="soft">{{ l.why }}</span>
          </li>
          <li v-if="r.left.length > 30" class="soft">and {{ r.left.length - 30 }} more</li>
        </ul>
      </section>
    </template>
    <p v-else class="soft">Loading …</p>
  </div>
</template>

<style scoped>
.crumb {
  margin: 0 0 0.2rem;
}
.trouble {
  color: var(--bad);
}
.where {
  overflow-wrap: anywhere;
}
.pages {
  display: flex;
  flex-wrap: wrap;
  gap: 0.4rem;
  margin-bottom: 0.6rem;
}
.pages button {
  display: grid;
  text-align: left;
  border: 1px solid var(--rule);
  background: var(--sheet);
  color: var(--ink);
  padding: 0.35rem 0.7rem;
  cursor: pointer;
  max-width: 18rem;
}
.pages button[aria-pressed='true'] {
  border-color: var(--sea);
  box-shadow: inset 0 -3px var(--sea);
}
.url {
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
.beside {
  display: grid;
  grid-template-columns: minmax(0, 3fr) minmax(0, 2fr);
  gap: 1rem;
  align-items: start;
}
.found {
  max-height: 90vh;
  overflow-y: auto;
}
@media (max-width: 60rem) {
  .beside {
    grid-template-columns: minmax(0, 1fr);
  }
  .found {
    max-height: none;
  }
}
</style>
