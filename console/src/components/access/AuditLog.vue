<script setup lang="ts">
import { ElAlert, ElButton, ElInput, ElOption, ElSelect } from 'element-plus'
import { computed, ref } from 'vue'
import { api, base, data as dataOf, type Schemas } from '../../api/client'
import { auditLog, type AuditQuery } from '../../api/queries'
import { useTrouble } from '../../composables/form'
import type { Column } from '../../composables/table'
import DataTable from '../shared/DataTable.vue'
import TimeAgo from '../shared/TimeAgo.vue'
import Trouble from '../shared/Trouble.vue'

/** The audit log: who came in, what left the house, who changed what others may do. */
const query = ref<AuditQuery>({})
const { data, error, hasNextPage, fetchNextPage, isFetching } = auditLog(query)
const entries = computed(() => data.value?.pages.flatMap((p) => p.items) ?? [])
const choices = computed(() => data.value?.pages[0])
const trouble = useTrouble()
const report = ref<Schemas['AuditReport']>()
const verify = () => trouble.guard(async () => void (report.value = await dataOf(api.GET('/audit/check'))))
const columns: Column<Schemas['AuditEntry']>[] = [
  { key: 'when', label: 'When', text: (e) => e.at },
  { key: 'person', label: 'Who', text: (e) => e.person },
  {
    key: 'action',
    label: 'What',
    text: (e) => (e.outcome === 'done' ? e.action : `refused: ${e.action} (${e.outcome})`),
    always: true,
  },
  { key: 'subject', label: 'Of', text: (e) => `${e.subject} ${e.detail}`.trim() },
  { key: 'via', label: 'By', text: (e) => e.via },
  { key: 'address', label: 'From', text: (e) => e.address },
]
const file = (format: string) => {
  const given = Object.entries(query.value).filter(([, v]) => v) as [string, string][]
  return `${base}/audit/file?${new URLSearchParams([...given, ['format', format]])}`
}
</script>

<template>
  <section class="audit">
    <p class="soft small">
      Each entry carries a hash of itself and of the one before. Verify reads them all and names the entry that was
      changed, taken out or moved.
    </p>
    <div class="row">
      <ElSelect v-model="query.person" clearable filterable class="who" placeholder="Everybody" aria-label="Person"
        ><ElOption v-for="p in choices?.people ?? []" :key="p" :value="p" :label="p || 'nobody known'"
      /></ElSelect>
      <ElSelect v-model="query.action" clearable filterable class="what" placeholder="Everything" aria-label="Action"
        ><ElOption v-for="a in choices?.actions ?? []" :key="a" :value="a" :label="a"
      /></ElSelect>
      <ElInput
        v-model.lazy="query.q"
        clearable
        class="what"
        placeholder="Text or address"
        aria-label="Text or address"
      />
      <ElButton @click="verify">Verify</ElButton>
      <a class="small" :href="file('csv')">CSV</a> <a class="small" :href="file('jsonl')">JSON lines</a>
    </div>
    <p v-if="trouble.text.value" role="alert" class="trouble">{{ trouble.text.value }}</p>
    <ElAlert
      v-if="report?.whole"
      type="success"
      :closable="false"
      :title="`${report.entries} entries, ${report.first} to ${report.last}, are whole.`"
      :description="`Note the head elsewhere: ${report.head}`"
    />
    <ElAlert v-else-if="report" type="error" :closable="false" :title="`The log is not whole: ${report.fault}.`" />
    <Trouble v-if="error" :error="error" />
    <DataTable
      :id="(e) => e.number"
      name="audit"
      label="Audit log"
      :rows="entries"
      :columns="columns"
      :row-class="(e) => ({ entry: true, refused: e.outcome !== 'done' })"
    >
      <template #when="{ row: e }"><TimeAgo :at="e.at" /></template>
    </DataTable>
    <ElButton v-if="hasNextPage" :loading="isFetching" @click="fetchNextPage()">Load more</ElButton>
  </section>
</template>

<style scoped>
.who {
  width: min(20rem, 100%);
}
.what {
  width: min(13rem, 100%);
}
.audit :deep(.refused td) {
  color: var(--bad);
}
.trouble {
  color: var(--bad);
}
</style>
