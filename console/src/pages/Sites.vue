<script setup lang="ts">
import { ElButton } from 'element-plus'
import { computed, reactive, ref } from 'vue'
import { useRouter } from 'vue-router'
import { ClientPack, SiteForm } from '../components/forms'
import { me, sites } from '../api/queries'
import { everyPage } from '../composables/every'
import { useClient } from '../composables/client'
import SiteBulk from '../components/site/SiteBulk.vue'
import DataTable from '../components/shared/DataTable.vue'
import Trouble from '../components/shared/Trouble.vue'
import VerdictTag from '../components/shared/VerdictTag.vue'
import { heaviness, verdicts } from '../composables/show'
import { openedByURL } from '../composables/opened'
import type { Column } from '../composables/table'

const router = useRouter()
const { data, error, isPending, hasNextPage, fetchNextPage } = sites(useClient().id)
const { data: person } = me()
/** Sites by name, each with its outlets behind it. */
const all = computed(() => {
  const items = data.value?.pages.flatMap((p) => p.items) ?? []
  const of = (id: number) => items.filter((s) => s.outletOf?.id === id)
  const alone = items.filter((s) => s.outletOf && !items.some((o) => o.id === s.outletOf!.id))
  return items.filter((s) => !s.outletOf || alone.includes(s)).flatMap((s) => [s, ...of(s.id)])
})
type Row = (typeof all.value)[number]
const worst = (s: Row) => Math.min(9, ...s.families.map((f) => heaviness[f.verdict] ?? 9))
const columns: Column<Row>[] = [
  { key: 'name', label: 'Site', text: (s) => s.name, always: true },
  { key: 'client', label: 'Client', text: (s) => s.client.name },
  { key: 'builder', label: 'Builder', text: (s) => s.builder.name },
  {
    key: 'fonts',
    label: 'Fonts',
    text: (s) => s.families.map((f) => `${f.family.name} (${verdicts[f.verdict]})`).join(', '),
    by: worst,
  },
  { key: 'pack', label: 'Pack', text: (s) => (s.outdated.length ? 'out of date' : '') },
]
const mayEdit = computed(() => person.value?.role !== 'viewer')
const selected = reactive(new Set<number>())
const chosen = computed(() => all.value.filter((s) => selected.has(s.id)))
const selectAll = (on: boolean) => all.value.forEach((s) => (on ? selected.add(s.id) : selected.delete(s.id)))
const rest = () => everyPage({ hasNextPage, fetchNextPage })
const adding = ref(false)
openedByURL(adding)
const packing = ref(false)
</script>

<template>
  <div class="page">
    <div class="head">
      <h1>Sites</h1>
      <span class="row">
        <ElButton @click="packing = true">Fonts for a computer</ElButton>
        <ElButton v-if="mayEdit" type="primary" @click="adding = true">Add a site</ElButton>
      </span>
    </div>
    <Trouble v-if="error" :error="error" />
    <p v-else-if="isPending" class="soft">Loading …</p>
    <p v-else-if="!all.length" class="soft">No sites yet. A site is a web site, an app or a prototype of a client.</p>
    <SiteBulk v-if="chosen.length" :sites="chosen" @clear="selected.clear()" />
    <DataTable
      v-if="all.length"
      :id="(s) => s.id"
      name="sites"
      label="Sites"
      :rows="all"
      :columns="columns"
      :row-class="(s) => ['site', { outlet: s.outletOf }]"
      :rest="rest"
    >
      <template v-if="mayEdit" #firsthead
        ><input
          type="checkbox"
          aria-label="Select all sites shown"
          :checked="all.length > 0 && all.every((s) => selected.has(s.id))"
          @change="selectAll(($event.target as HTMLInputElement).checked)"
      /></template>
      <template v-if="mayEdit" #first="{ row: s }"
        ><input
          type="checkbox"
          :aria-label="`Select ${s.name}`"
          :checked="selected.has(s.id)"
          @change="($event.target as HTMLInputElement).checked ? selected.add(s.id) : selected.delete(s.id)"
      /></template>
      <template #name="{ row: s }">
        <RouterLink class="name" :to="`/sites/${s.id}`">{{ s.name }}</RouterLink>
        <div v-if="!s.outletOf" class="soft small domains">{{ s.domains.join(', ') }}</div>
      </template>
      <template #fonts="{ row: s }">
        <ul class="used">
          <li v-for="f in s.families" :key="f.family.id" class="row">
            <VerdictTag :state="f.verdict" :signed="!!f.signOff" />{{ f.family.name }}
          </li>
          <li v-if="!s.families.length" class="soft">No families yet</li>
        </ul>
      </template>
      <template #pack="{ row: s }"><span v-if="s.outdated.length" class="caution">out of date</span></template>
    </DataTable>
    <ElButton v-if="hasNextPage" @click="fetchNextPage()">More sites</ElButton>
    <ClientPack v-model="packing" :may-build="mayEdit" />
    <SiteForm v-model="adding" @saved="(s) => router.push(`/sites/${s.id}`)" />
  </div>
</template>

<style scoped>
.outlet .name {
  margin-left: 1.2rem;
}
.name {
  font-weight: 650;
}
.domains {
  overflow-wrap: anywhere;
}
.used {
  list-style: none;
  padding: 0;
  margin: 0;
  display: grid;
  gap: 0.3rem;
}
.used .row {
  flex-wrap: nowrap;
}
.caution {
  color: var(--caution);
}
</style>
