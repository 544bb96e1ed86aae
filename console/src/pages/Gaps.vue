<script setup lang="ts">
import { ElButton, ElMessage, ElOption, ElSelect } from 'element-plus'
import { computed, reactive, ref } from 'vue'
import { useRoute } from 'vue-router'
import { api, data, type Schemas } from '../api/client'
import { change, importTitle, gaps, licenses, me } from '../api/queries'
import DataTable from '../components/shared/DataTable.vue'
import Trouble from '../components/shared/Trouble.vue'
import { everyPage } from '../composables/every'
import { label, origins, some } from '../composables/show'
import type { Column } from '../composables/table'
import { offerUndo } from '../composables/undo'

/** Families with missing details, and what is done about many of them at once. */
const route = useRoute()
const id = computed(() => Number(route.query.import) || 0)
const { data: from } = importTitle(id)
const { data: person } = me()
const mayEdit = computed(() => person.value?.role !== 'viewer')
const codes: { value: Schemas['GapCode']; label: string }[] = [
  { value: 'conflict', label: 'a decision' },
  { value: 'unconfirmed', label: 'a confirmed license' },
  { value: 'license', label: 'a license' },
  { value: 'document', label: 'a document' },
  { value: 'origin', label: 'an origin' },
  { value: 'mates', label: 'styles' },
]
const what = ref<Schemas['GapCode'] | ''>('')
const filter = computed(() => ({ import: id.value || undefined, what: what.value ? [what.value] : undefined }))
const { data: pages, error, isFetching, hasNextPage, fetchNextPage } = gaps(filter)
const found = computed(() => pages.value?.pages.flatMap((p) => p.items) ?? [])

const rest = () => everyPage({ hasNextPage, fetchNextPage })
const columns: Column<(typeof found.value)[number]>[] = [
  { key: 'family', label: 'Family', text: (f) => f.family.name, always: true },
  { key: 'faces', label: 'Faces', text: (f) => String(f.faces), by: (f) => f.faces, number: true },
  { key: 'client', label: 'Client', text: (f) => f.client.name },
  { key: 'origin', label: 'Origin', text: (f) => label(origins, f.origin) },
  { key: 'gaps', label: 'Missing', text: (f) => f.gaps.map((l) => l.message).join(' '), by: (f) => f.gaps.length },
]

const picked = reactive(new Set<number>())
const chosen = computed(() => found.value.filter((f) => picked.has(f.family.id)))
const ids = computed(() => chosen.value.map((f) => f.family.id))
const pickAll = (on: boolean) => found.value.forEach((f) => (on ? picked.add(f.family.id) : picked.delete(f.family.id)))
const touched = ['gaps', 'families', 'licenses', 'sites']
function told(done: Schemas['DoneFamilies']) {
  for (const f of done.done) picked.delete(f.id)
  const why = done.refused.map((r) => `${r.family.name || r.family.id}: ${r.why}`)
  ElMessage({
    type: why.length ? 'warning' : 'success',
    message: [`Done for ${some(done.done.length, 'family', 'families')}.`, ...why].join(' '),
    duration: why.length ? 15000 : 5000,
    showClose: true,
  })
}
const confirm = change((families: number[]) => data(api.POST('/gaps/confirm', { body: { families } })), touched, told)
const alter = change((body: Schemas['FamiliesChange']) => data(api.POST('/families/change', { body })), touched, told)
const cover = change(
  (license: number) =>
    data(api.POST('/licenses/{id}/families', { params: { path: { id: license } }, body: { families: ids.value } })),
  touched,
  () => picked.clear(),
)
const { data: recorded } = licenses()
const all = computed(() => recorded.value?.pages.flatMap((p) => p.items) ?? [])
const license = ref(0)
const origin = ref<Schemas['Origin'] | ''>('')
const recognized = computed(() => chosen.value.filter((f) => f.recognized.length).length)
const restore = change(
  (families: number[]) => data(api.POST('/families/change', { body: { families, retired: false } })),
  ['families'],
)
async function retire() {
  const families = ids.value
  await alter.mutateAsync({ families, retired: true })
  offerUndo(`${some(families.length, 'family', 'families')} retired.`, () => restore.mutate(families))
}
</script>

<template>
  <div class="page">
    <h1>Missing details</h1>
    <p class="soft">
      <template v-if="id"
        >Families of the import <RouterLink :to="`/imports/${id}`">{{ from ?? id }}</RouterLink> with missing details.
        <RouterLink to="/gaps">All families</RouterLink></template
      ><template v-else>Families with missing details: license, document, origin, styles.</template>
    </p>
    <Trouble v-if="error" :error="error" />
    <div class="row small filter">
      <label class="row"><input v-model="what" type="radio" name="what" value="" />Anything</label>
      <label v-for="c in codes" :key="c.value" class="row"
        ><input v-model="what" type="radio" name="what" :value="c.value" />{{ c.label }}</label
      >
    </div>
    <form
      v-if="mayEdit && chosen.length"
      class="row sheet bulk"
      aria-label="Actions for selected families"
      @submit.prevent
    >
      <strong>{{ some(chosen.length, 'family', 'families') }}</strong>
      <ElButton :disabled="!recognized" :loading="confirm.isPending.value" @click="confirm.mutate(ids)"
        >Confirm recognized licenses ({{ recognized }})</ElButton
      >
      <span class="row">
        <ElSelect v-model="license" class="pick" filterable aria-label="License for selected families"
          ><ElOption :value="0" label="A license …" /><ElOption
            v-for="l in all"
            :key="l.id"
            :value="l.id"
            :label="`${l.id}: ${[l.licensor, l.reference].filter(Boolean).join(', ')}, for ${l.grantedTo.name}`"
        /></ElSelect>
        <ElButton :disabled="!license" :loading="cover.isPending.value" @click="cover.mutate(license)"
          >Add to license</ElButton
        >
      </span>
      <span class="row">
        <ElSelect v-model="origin" class="pick" placeholder="An origin …" aria-label="Origin of selected fonts"
          ><ElOption v-for="o in origins" :key="o.value" :value="o.value" :label="o.label"
        /></ElSelect>
        <ElButton
          :disabled="!origin"
          :loading="alter.isPending.value"
          @click="origin && alter.mutate({ families: ids, origin })"
          >Set origin</ElButton
        >
      </span>
      <ElButton @click="retire">Retire</ElButton>
    </form>
    <p v-if="!isFetching && !found.length" class="clear">No missing details.</p>
    <DataTable
      v-else-if="found.length"
      :id="(f) => f.family.id"
      name="missing-details"
      label="Missing details"
      :rows="found"
      :columns="columns"
      :row-state="(f) => ({ 'data-gaps': f.gaps.map((l) => l.code).join(' ') })"
      :rest="rest"
    >
      <template v-if="mayEdit" #firsthead
        ><input
          type="checkbox"
          aria-label="Select all shown"
          :checked="found.length > 0 && found.every((f) => picked.has(f.family.id))"
          @change="pickAll(($event.target as HTMLInputElement).checked)"
      /></template>
      <template v-if="mayEdit" #first="{ row: f }"
        ><input
          type="checkbox"
          :aria-label="`Choose ${f.family.name} of ${f.client.name}`"
          :checked="picked.has(f.family.id)"
          @change="($event.target as HTMLInputElement).checked ? picked.add(f.family.id) : picked.delete(f.family.id)"
      /></template>
      <template #family="{ row: f }"
        ><RouterLink :to="`/families/${f.family.id}`">{{ f.family.name }}</RouterLink></template
      >
      <template #gaps="{ row: f }">
        <ul class="bare">
          <li v-for="l in f.gaps" :key="l.message" :class="{ query: l.code === 'conflict' }">{{ l.message }}</li>
        </ul>
      </template>
    </DataTable>
    <ElButton v-if="hasNextPage" @click="fetchNextPage()">More families</ElButton>
  </div>
</template>

<style scoped>
.pick {
  width: 13rem;
}
.filter {
  gap: 0.3rem 1.2rem;
  margin: 0.4rem 0 0.8rem;
}
.filter label {
  gap: 0.35rem;
}
.bare {
  list-style: none;
  margin: 0;
  padding: 0;
}
.review {
  color: var(--caution);
}
.cleared {
  color: var(--good);
}
td {
  vertical-align: top;
}
</style>
