<script setup lang="ts">
import { ElButton } from 'element-plus'
import { computed, ref, toRef } from 'vue'
import { ClientPack, LicenseForm } from '../components/forms'
import { base, type Schemas } from '../api/client'
import { activity, clients, due, licenses, register, shortlists, sites } from '../api/queries'
import ClientActions from '../components/access/ClientActions.vue'
import LicenseLine from '../components/licenses/LicenseLine.vue'
import DataTable from '../components/shared/DataTable.vue'
import Trouble from '../components/shared/Trouble.vue'
import VerdictTag from '../components/shared/VerdictTag.vue'
import { useClientStore } from '../composables/client'
import { usePerson } from '../composables/person'
import TimeAgo from '../components/shared/TimeAgo.vue'
import { away, bytes, heaviness, some, verdicts } from '../composables/show'
import type { Column } from '../composables/table'

/** All of a client: families, licenses, sites, shortlists, what needs attention, and handing over. */
const props = defineProps<{ id: number }>()
const id = toRef(props, 'id')
const person = usePerson()
const mayEdit = computed(() => person.value?.role !== 'viewer')
const switched = useClientStore()
const { data: known, error } = clients()
const client = computed(() => known.value?.items.find((c) => c.id === props.id))
const { data: rows } = register(id)
const { data: needs } = due(ref(90), id)
const { data: terms, hasNextPage: moreTerms, fetchNextPage: nextTerms } = licenses(id)
const { data: places, hasNextPage: moreSites, fetchNextPage: nextSites } = sites(id)
const { data: lists } = shortlists(computed(() => String(props.id)))
const granted = computed(() => terms.value?.pages.flatMap((p) => p.items) ?? [])
const allSites = computed(() => places.value?.pages.flatMap((p) => p.items) ?? [])
const { data: log } = activity(computed(() => ({ client: props.id })))
const recent = computed(() => log.value?.pages[0]?.items.slice(0, 8) ?? [])
const columns: Column<Schemas['RegisterRow']>[] = [
  { key: 'family', label: 'Family', text: (r) => r.family.name, always: true },
  { key: 'verdict', label: 'Verdict', text: (r) => verdicts[r.verdict] ?? r.verdict, by: (r) => heaviness[r.verdict] },
  { key: 'faces', label: 'Faces', text: (r) => String(r.faces), by: (r) => r.faces, number: true },
  { key: 'licensed', label: 'Licensed', text: (r) => r.licenses.join('; ') },
  { key: 'used', label: 'Used on', text: (r) => r.sites.join(', ') },
  { key: 'missing', label: 'Missing', text: (r) => r.missing.join(' ') },
]
/** Documents of the client's licenses, each once. */
const documents = computed(() => {
  const all = granted.value.flatMap((l) => l.documents.map((d) => ({ ...d, license: l })))
  return [...new Map(all.map((d) => [d.sha256, d])).values()]
})
/** Who worked for the client lately, and who has a seat of one of its licenses. */
const people = computed(() => {
  const all = new Map<string, { name: string; at?: string; seats: number[] }>()
  const one = (name: string) => all.get(name) ?? all.set(name, { name, seats: [] }).get(name)!
  for (const a of log.value?.pages[0]?.items ?? []) one(a.person).at ??= a.at
  for (const l of granted.value)
    for (const s of l.allocations ?? []) if (s.measure === 'seats') one(s.name).seats.push(l.id)
  return [...all.values()]
})
const recording = ref(false)
const packing = ref(false)
</script>

<template>
  <div class="page">
    <Trouble v-if="error" :error="error" />
    <template v-else-if="client">
      <div class="head">
        <div>
          <p class="soft small crumb"><RouterLink to="/clients">Clients</RouterLink></p>
          <h1>{{ client.name }}</h1>
          <p class="soft small crumb">
            {{ some(rows?.items.length ?? 0, 'family', 'families') }}, {{ some(granted.length, 'license') }},
            {{ some(allSites.length, 'site') }}<template v-if="client.closedAt">; closed</template>
          </p>
        </div>
        <span class="row">
          <ElButton v-if="switched.id !== client.id" @click="switched.id = client.id">Show only this client</ElButton>
          <ElButton v-else @click="switched.id = undefined">Show all clients</ElButton>
          <ElButton v-if="mayEdit" @click="packing = true">Fonts for a computer</ElButton>
          <ElButton v-if="mayEdit" type="primary" @click="recording = true">Record a license</ElButton>
        </span>
      </div>
      <section v-if="needs?.items.length" class="sheet attention">
        <h2>Needs attention</h2>
        <ul class="list small">
          <li v-for="i in needs.items" :key="i.key" :class="i.state">
            <strong v-if="i.days !== undefined">{{ away(i.days) }}: </strong>{{ i.message }}
          </li>
        </ul>
        <RouterLink to="/" class="small" @click="switched.id = client.id">Open on the home page</RouterLink>
      </section>
      <div class="row split">
        <h2>Families</h2>
        <RouterLink :to="{ path: '/families', query: { client: client.name } }">Open in the catalog</RouterLink>
      </div>
      <DataTable
        v-if="rows?.items.length"
        :id="(r) => r.family.id"
        name="client-families"
        :label="`Families of ${client.name}`"
        :rows="rows.items"
        :columns="columns"
        row-class="family"
      >
        <template #family="{ row: r }"
          ><RouterLink class="one" :to="`/families/${r.family.id}`">{{ r.family.name }}</RouterLink></template
        >
        <template #verdict="{ row: r }"><VerdictTag :state="r.verdict" /></template>
        <template #missing="{ row: r }"
          ><span class="missing">{{ r.missing.join(' ') }}</span></template
        >
      </DataTable>
      <p v-if="rows && !rows.items.length" class="soft">
        No families yet. <RouterLink to="/imports">Import fonts</RouterLink> for this client.
      </p>
      <h2>Sites</h2>
      <ul class="list">
        <li v-for="s in allSites" :key="s.id" class="row site">
          <RouterLink class="name" :to="`/sites/${s.id}`">{{ s.name }}</RouterLink>
          <span class="soft small">{{ s.builder.name }}</span>
          <span v-for="f in s.families" :key="f.family.id" class="small"
            ><VerdictTag :state="f.verdict" :signed="!!f.signOff" /> {{ f.family.name }}</span
          >
          <span v-if="s.outdated.length" class="small caution">pack out of date</span>
        </li>
      </ul>
      <ElButton v-if="moreSites" @click="nextSites()">More sites</ElButton>
      <p v-if="places && !allSites.length" class="soft">
        No sites yet. <RouterLink to="/sites">Add a site</RouterLink> for this client.
      </p>
      <h2>Licenses</h2>
      <ul class="list">
        <li v-for="l in granted" :key="l.id"><LicenseLine :license="l" :may-edit="mayEdit" with-families /></li>
      </ul>
      <ElButton v-if="moreTerms" @click="nextTerms()">Older licenses</ElButton>
      <p v-if="terms && !granted.length" class="soft">No license is granted to this client.</p>
      <h2>Documents</h2>
      <ul v-if="documents.length" class="list">
        <li v-for="d in documents" :key="d.id" class="row site">
          <a :href="`${base}/documents/${d.id}/content?inline=true`" target="_blank" class="name">{{ d.name }}</a>
          <span class="soft small"
            >{{ bytes(d.bytes) }}, of
            <RouterLink :to="{ path: '/licenses', query: { show: d.license.id } }"
              >license {{ d.license.id }}</RouterLink
            ></span
          >
        </li>
      </ul>
      <p v-else class="soft">No documents. Attach orders and license texts to licenses.</p>
      <h2>People</h2>
      <ul v-if="people.length" class="list small">
        <li v-for="p in people" :key="p.name" class="row site">
          <strong>{{ p.name }}</strong>
          <span v-if="p.at" class="soft">last active here <TimeAgo :at="p.at" /></span>
          <span v-if="p.seats.length" class="soft"
            >seat of
            <template v-for="(l, i) in p.seats" :key="l"
              >{{ i ? ', ' : ''
              }}<RouterLink :to="{ path: '/licenses', query: { show: l } }">license {{ l }}</RouterLink>
            </template></span
          >
        </li>
      </ul>
      <p v-else class="soft">Nobody has worked for this client yet, and no seats are given.</p>
      <h2>Shortlists</h2>
      <ul class="list">
        <li v-for="l in lists ?? []" :key="l.id" class="row site">
          <RouterLink class="name" :to="`/shortlists/${l.id}`">{{ l.name }}</RouterLink>
          <span class="soft small">{{ l.families.map((f) => f.name).join(', ') || 'No families yet' }}</span>
        </li>
      </ul>
      <p v-if="lists && !lists.length" class="soft">No shortlists yet.</p>
      <div class="row split">
        <h2>Activity</h2>
        <RouterLink to="/activity" @click="switched.id = client.id">Show all activity</RouterLink>
      </div>
      <ul v-if="recent.length" class="list small">
        <li v-for="a in recent" :key="a.id" class="row site">
          <TimeAgo class="soft" :at="a.at" />
          <span
            ><strong>{{ a.person }}</strong> {{ a.action }}: {{ a.subject }}</span
          >
        </li>
      </ul>
      <p v-else class="soft">No activity yet.</p>
      <h2>Hand over</h2>
      <p class="soft small">
        The archive is a zip with the original files, documents, licenses, sites and packs of this client. The register
        can be printed: <a :href="`/register/print?client=${client.id}`" target="_blank">print register</a>.
      </p>
      <ClientActions :client="client" :may-edit="mayEdit" :admin="person?.role === 'admin'" />
      <LicenseForm v-model="recording" :client="client.id" />
      <ClientPack v-model="packing" :may-build="mayEdit" />
    </template>
    <p v-else-if="known" class="sheet">
      There is no client with the number {{ id }}. <RouterLink to="/clients">Show all clients</RouterLink>.
    </p>
    <p v-else class="soft">Loading …</p>
  </div>
</template>

<style scoped>
.crumb {
  margin: 0 0 0.2rem;
}
.split {
  justify-content: space-between;
}
.attention h2 {
  margin-top: 0;
}
.attention li {
  padding: 0.25rem 0;
}
.attention .blocked strong {
  color: var(--bad);
}
.name {
  font-weight: 650;
}
.site {
  padding: 0.45rem 0;
}
.one {
  white-space: nowrap;
}
.missing,
.caution {
  color: var(--caution);
}
</style>
