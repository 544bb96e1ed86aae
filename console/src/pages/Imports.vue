<script setup lang="ts">
import { useQueryClient } from '@tanstack/vue-query'
import { ElButton, ElOption, ElSelect } from 'element-plus'
import { computed, ref, watch } from 'vue'
import { useRouter } from 'vue-router'
import { api, data, type Schemas } from '../api/client'
import { clients, imports } from '../api/queries'
import DropZone from '../components/imports/DropZone.vue'
import PasteCode from '../components/imports/PasteCode.vue'
import DataTable from '../components/shared/DataTable.vue'
import TimeAgo from '../components/shared/TimeAgo.vue'
import { everyPage } from '../composables/every'
import { useTrouble } from '../composables/form'
import { importStates, label, origins, when } from '../composables/show'
import type { Column } from '../composables/table'
import { renew } from '../composables/renew'
import { titleOf, uploadAll } from '../composables/uploads'

/** Where things come in: each drop is an import, looked through on a page of its own. */
const queries = useQueryClient()
const router = useRouter()
const { data: known } = clients()
const { data: pages, fetchNextPage, hasNextPage } = imports()
const list = computed(() => pages.value?.pages.flatMap((p) => p.items) ?? [])
const count = (key: 'fonts' | 'taken' | 'marked', label: string): Column<Schemas['Import']> => ({
  key,
  label,
  text: (d) => String(d.counts[key] || ''),
  by: (d) => d.counts[key],
  number: true,
})
const columns: Column<Schemas['Import']>[] = [
  { key: 'title', label: 'Import', text: (d) => d.title, always: true },
  { key: 'state', label: 'State', text: (d) => importStates[d.state].label },
  count('fonts', 'Fonts'),
  count('taken', 'In the catalog'),
  count('marked', 'To resolve'),
  { key: 'client', label: 'Client', text: (d) => d.client.name },
  { key: 'origin', label: 'Origin', text: (d) => label(origins, d.origin) },
  { key: 'by', label: 'By', text: (d) => d.createdBy },
  { key: 'at', label: 'Started', text: (d) => when(d.createdAt), by: (d) => d.createdAt },
]
const rest = () => everyPage({ hasNextPage, fetchNextPage })
const client = ref('')
const origin = ref<Schemas['Origin']>('unknown')
const trouble = useTrouble()
watch(known, (k) => (client.value ||= k?.items.find((c) => c.studio)?.name ?? ''), { immediate: true })

async function take(files: { file: File; path: string }[]) {
  await trouble.guard(async () => {
    const d = await data(
      api.POST('/imports', { body: { title: titleOf(files), client: client.value, origin: origin.value } }),
    )
    void uploadAll(d.id, files).then(() => renew(queries, ['imports']))
    await router.push(`/imports/${d.id}`)
  })
}
</script>

<template>
  <div class="page">
    <div class="head"><h1>Import</h1></div>
    <div class="row sheet">
      <div class="field">
        <span class="soft small">For the client</span
        ><ElSelect v-model="client" aria-label="For the client"
          ><ElOption v-for="c in known?.items ?? []" :key="c.id" :value="c.name" :label="c.name"
        /></ElSelect>
      </div>
      <div class="field">
        <span class="soft small">Origin</span
        ><ElSelect v-model="origin" aria-label="Origin"
          ><ElOption v-for="o in origins" :key="o.value" :value="o.value" :label="o.label"
        /></ElSelect>
      </div>
    </div>
    <DropZone @files="take" />
    <PasteCode :client="client" />
    <p v-if="trouble.text.value" role="alert" class="alarm">{{ trouble.text.value }}</p>
    <template v-if="list.length">
      <h2>Imports</h2>
      <DataTable
        :id="(d) => d.id"
        name="imports"
        label="Imports"
        :rows="list"
        :columns="columns"
        row-class="import"
        :rest="rest"
      >
        <template #title="{ row: d }"
          ><RouterLink :to="`/imports/${d.id}`"
            ><strong>{{ d.title }}</strong></RouterLink
          ></template
        >
        <template #state="{ row: d }"
          ><span class="state" :class="importStates[d.state].tone">{{ importStates[d.state].label }}</span></template
        >
        <template #at="{ row: d }"><TimeAgo :at="d.createdAt" /></template>
      </DataTable>
      <ElButton v-if="hasNextPage" @click="fetchNextPage()">Earlier imports</ElButton>
    </template>
  </div>
</template>

<style scoped>
.field {
  min-width: 14rem;
}
.field > span {
  display: block;
}
.state.review {
  color: var(--caution);
}
.state.cleared {
  color: var(--good);
}
.alarm {
  color: var(--bad);
}
</style>
