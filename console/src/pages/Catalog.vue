<script setup lang="ts">
import { ElButton, ElInput, ElOption, ElSelect } from 'element-plus'
import { computed, ref, watch } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { clients, families } from '../api/queries'
import type { Schemas } from '../api/client'
import FaceSample from '../parts/FaceSample.vue'
import SampleControls from '../parts/SampleControls.vue'
import Trouble from '../parts/Trouble.vue'
import { label, origins } from '../state/show'
import { useTaste } from '../state/taste'

const route = useRoute()
const router = useRouter()
const taste = useTaste()
const typed = ref(String(route.query.q ?? ''))
const q = ref(typed.value)
const client = ref(String(route.query.client ?? ''))
const { data: known } = clients()
const { data, error, isPending, hasNextPage, fetchNextPage, isFetchingNextPage } = families(q, client)
const found = computed(() => data.value?.pages.flatMap((p) => p.items) ?? [])

// The address of the page holds the query; typing settles for a moment first.
let settling = 0
watch(typed, (t) => {
  clearTimeout(settling)
  settling = window.setTimeout(() => (q.value = t.trim()), 200)
})
watch([q, client], () => router.replace({ query: { ...(q.value && { q: q.value }), ...(client.value && { client: client.value }) } }))

type Family = Schemas['FamilySummary']
/** The face nearest to an upright regular speaks for the family. */
function speaker(f: Family) {
  return [...f.faces].sort((a, b) => rank(a) - rank(b))[0]
}
function rank(p: Family['faces'][number]) {
  return Math.abs(p.weight - 400) + (p.slope === 'upright' ? 0 : 1000)
}
/** What is in order, and what is not. */
function standing(f: Family) {
  return [f.origin !== 'unknown' && label(origins, f.origin), f.licenses && `${f.licenses} license${f.licenses > 1 ? 's' : ''}`].filter(Boolean)
}
function alarms(f: Family) {
  return [f.origin === 'unknown' && 'origin unknown', !f.licenses && 'no license', f.permission === 'restricted' && 'embedding forbidden'].filter(Boolean)
}
function words(f: Family) {
  return taste.words || f.sample || f.name
}
</script>

<template>
  <div class="page">
    <div class="head">
      <h1>Catalog</h1>
      <RouterLink to="/intake">Add fonts</RouterLink>
    </div>
    <div class="tools sheet">
      <ElInput v-model="typed" class="find" placeholder="Find: family, PostScript name, file, client" clearable aria-label="Find" />
      <ElSelect v-model="client" class="client" placeholder="Any client" clearable aria-label="Client" :empty-values="['', null, undefined]" :value-on-clear="''">
        <ElOption v-for="c in known?.items ?? []" :key="c.id" :value="c.name" :label="c.name" />
      </ElSelect>
      <SampleControls />
    </div>
    <Trouble v-if="error" :error="error" />
    <p v-else-if="isPending" class="soft">Reading the catalog …</p>
    <p v-else-if="!found.length && (q || client)" class="soft">No family matches. Try fewer letters, or another client.</p>
    <div v-else-if="!found.length" class="sheet"><p>The crate is empty. <RouterLink to="/intake">Add the first fonts</RouterLink>.</p></div>
    <ul class="list">
      <li v-for="f in found" :key="f.id" class="strip">
        <div class="about">
          <RouterLink class="name" :to="`/families/${f.id}`">{{ f.name }}</RouterLink>
          <span class="soft small">{{ f.client.name }}</span>
          <span class="soft small">{{ standing(f).join(', ') }}</span>
          <span v-if="alarms(f).length" class="small alarm">{{ alarms(f).join(', ') }}</span>
          <span class="soft small">{{ f.faces.length }} face{{ f.faces.length === 1 ? '' : 's' }}, {{ f.sites ? `on ${f.sites} site${f.sites > 1 ? 's' : ''}` : 'not in use' }}</span>
        </div>
        <RouterLink :to="`/families/${f.id}`" class="sample" :aria-label="`Open ${f.name}`" tabindex="-1">
          <FaceSample v-if="speaker(f)" :file-id="speaker(f)!.fileId" :container="speaker(f)!.container" :place="speaker(f)!.place" :size="taste.size" :text="words(f)" />
        </RouterLink>
      </li>
    </ul>
    <ElButton v-if="hasNextPage" :loading="isFetchingNextPage" @click="fetchNextPage()">More families</ElButton>
  </div>
</template>

<style scoped>
.tools { display: flex; flex-wrap: wrap; gap: 0.6rem 1rem; align-items: end; margin-bottom: 0.75rem; }
.tools > :last-child { flex: 1 1 100%; }
.find { flex: 3 1 16rem; }
.client { flex: 1 1 11rem; }
.strip { display: grid; grid-template-columns: 13rem minmax(0, 1fr); gap: 0.25rem 1.5rem; padding: 1rem 0; align-items: center; }
.about { display: grid; }
.name { font-weight: 650; color: var(--ink); text-decoration: none; }
.name:hover { text-decoration: underline; }
.sample { color: inherit; text-decoration: none; min-width: 0; }
.alarm { color: var(--barred); font-weight: 600; }
.alarm::first-letter { text-transform: uppercase; }
@media (max-width: 46rem) { .strip { grid-template-columns: minmax(0, 1fr); } }
</style>
