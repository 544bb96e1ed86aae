<script setup lang="ts">
import { ElOption, ElSelect } from 'element-plus'
import { computed } from 'vue'
import { base, type Schemas } from '../api/client'
import { clients, register } from '../api/queries'
import DataTable from '../components/shared/DataTable.vue'
import Trouble from '../components/shared/Trouble.vue'
import VerdictTag from '../components/shared/VerdictTag.vue'
import { useClient } from '../composables/client'
import { heaviness, label, origins, some, verdicts } from '../composables/show'
import type { Column } from '../composables/table'

const { id: client, store: switched } = useClient()
const { data: r, error, isPending } = register(client)
const { data: known } = clients()
const asked = computed(() => (client.value ? `client=${client.value}` : ''))
const parts = ['licenses', 'sites', 'evidence', 'missing'] as const
const columns: Column<Schemas['RegisterRow']>[] = [
  { key: 'family', label: 'Family', text: (i) => i.family.name, always: true },
  { key: 'client', label: 'Client', text: (i) => i.client.name },
  { key: 'verdict', label: 'Verdict', text: (i) => verdicts[i.verdict] ?? i.verdict, by: (i) => heaviness[i.verdict] },
  { key: 'licenses', label: 'Licensed', text: (i) => i.licenses.join('; ') },
  { key: 'sites', label: 'Used on', text: (i) => i.sites.join('; ') },
  { key: 'evidence', label: 'Evidence', text: (i) => i.evidence.join('; ') },
  { key: 'missing', label: 'Missing', text: (i) => i.missing.join(' ') },
]
const file = (format: string) => `${base}/register/file?format=${format}${asked.value ? `&${asked.value}` : ''}`
</script>

<template>
  <div class="page">
    <div class="head">
      <div>
        <p class="soft small crumb"><RouterLink to="/licenses">Licenses</RouterLink></p>
        <h1>Register</h1>
      </div>
      <div class="row">
        <ElSelect v-model="switched.id" clearable placeholder="All clients" aria-label="Client" class="client"
          ><ElOption v-for="c in known?.items ?? []" :key="c.id" :value="c.id" :label="c.name"
        /></ElSelect>
        <a :href="`/register/print?${asked}`" target="_blank">Print</a><a :href="file('xlsx')">Export XLSX</a
        ><a :href="file('csv')">CSV</a>
      </div>
    </div>
    <Trouble v-if="error" :error="error" />
    <p v-else-if="isPending" class="soft">Loading …</p>
    <p v-else-if="!r?.items.length" class="soft">The register is empty.</p>
    <DataTable v-else :id="(i) => i.family.id" name="register" label="Register" :rows="r.items" :columns="columns">
      <template #family="{ row: i }">
        <RouterLink class="family" :to="`/families/${i.family.id}`"
          ><strong>{{ i.family.name }}</strong></RouterLink
        >
        <div class="soft small">{{ label(origins, i.origin) }}, {{ some(i.faces, 'face') }}</div>
      </template>
      <template #verdict="{ row: i }"><VerdictTag :state="i.verdict" /></template>
      <template v-for="part in parts" :key="part" #[part]="{ row: i }">
        <div v-for="line in i[part]" :key="line" class="one small" :class="{ missing: part === 'missing' }">
          {{ line }}
        </div>
      </template>
    </DataTable>
  </div>
</template>

<style scoped>
.crumb {
  margin: 0 0 0.2rem;
}
.client {
  width: 14rem;
}
.family {
  min-width: 9rem;
}
.one + .one {
  margin-top: 0.4rem;
}
.one {
  min-width: 10rem;
  overflow-wrap: anywhere;
}
.missing {
  color: var(--bad);
}
</style>
