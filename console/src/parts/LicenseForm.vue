<script setup lang="ts">
import { ElButton, ElCheckbox, ElCheckboxGroup, ElDatePicker, ElDialog, ElForm, ElFormItem, ElInput, ElOption, ElSelect } from 'element-plus'
import { reactive, ref, watch } from 'vue'
import { api, data, type Schemas } from '../api/client'
import { change, clients } from '../api/queries'
import { useTrouble } from '../state/form'
import { uses } from '../state/show'
import FamilyPicker from './FamilyPicker.vue'

/** Records a license, or changes the one given. */
const props = defineProps<{ license?: Schemas['License']; families?: Schemas['Ref'][]; client?: number }>()
const open = defineModel<boolean>({ required: true })
const { data: known } = clients()
const kinds = [{ value: 'bought', label: 'Bought' }, { value: 'client', label: 'Supplied by the client' }, { value: 'open', label: 'Open' }, { value: 'commissioned', label: 'Commissioned' }]
const form = reactive<Schemas['LicenseTerms']>({ kind: 'bought', grantedTo: 0, uses: [], families: [] })
const consents = [{ value: 'not-said', label: 'Not said' }, { value: 'yes', label: 'Allowed' }, { value: 'no', label: 'Forbidden' }]
const changes = [{ key: 'subset', label: 'Trimming the font' }, { key: 'outlines', label: 'Changing its outlines' }, { key: 'name', label: 'Renaming it' }] as const
const said = reactive<Required<Schemas['LicensedChanges']>>({ subset: 'not-said', outlines: 'not-said', name: 'not-said' })
const paper = ref<File[]>([])
const trouble = useTrouble()

watch(open, (now) => {
  if (!now) return
  const l = props.license
  trouble.clear()
  paper.value = []
  Object.assign(form, {
    kind: l?.kind ?? 'bought', grantedTo: l?.grantedTo.id ?? props.client, licensor: l?.licensor ?? '', reference: l?.reference ?? '',
    uses: [...(l?.uses ?? ['web'])], from: l?.from, until: l?.until, note: l?.note ?? '', families: l?.families.map((f) => f.id) ?? (props.families ?? []).map((f) => f.id),
  })
  Object.assign(said, { subset: 'not-said', outlines: 'not-said', name: 'not-said' }, l?.changes)
}, { immediate: true })

const save = change(async () => {
  const body = { ...form, changes: { ...said }, from: form.from || undefined, until: form.until || undefined }
  const l = props.license
    ? await data(api.PUT('/licenses/{id}', { params: { path: { id: props.license.id }, header: { 'If-Match': props.license.etag } }, body }))
    : await data(api.POST('/licenses', { body }))
  for (const file of paper.value) {
    const parts = new FormData()
    parts.append('file', file)
    await api.POST('/licenses/{id}/documents', { params: { path: { id: l.id } }, body: parts as never })
  }
}, ['licenses', 'families', 'sites'], () => (open.value = false), true)

const submit = () => trouble.guard(() => save.mutateAsync(undefined))
</script>

<template>
  <ElDialog v-model="open" :title="license ? `Change license ${license.id}` : 'Record a license'" width="min(38rem, 94vw)" top="5vh" append-to-body>
    <ElForm label-position="top" @submit.prevent="submit">
      <ElFormItem label="Covers" :error="trouble.at('families')">
        <FamilyPicker v-model="form.families" multiple placeholder="Families" label="Covers" :client="known?.items.find((c) => c.id === form.grantedTo)?.name" :known="license?.families ?? families" />
      </ElFormItem>
      <ElFormItem label="Granted to" :error="trouble.at('grantedTo')">
        <ElSelect v-model="form.grantedTo" placeholder="Client" aria-label="Granted to"><ElOption v-for="c in known?.items ?? []" :key="c.id" :value="c.id" :label="c.name" /></ElSelect>
      </ElFormItem>
      <ElFormItem label="Allows" :error="trouble.at('uses')">
        <ElCheckboxGroup v-model="form.uses"><ElCheckbox v-for="u in uses" :key="u.value" :value="u.value" :label="u.label" /></ElCheckboxGroup>
      </ElFormItem>
      <div class="pair">
        <ElFormItem label="From (always, if empty)"><ElDatePicker v-model="form.from" type="date" value-format="YYYY-MM-DD" aria-label="From" /></ElFormItem>
        <ElFormItem label="Until, last day (perpetual, if empty)" :error="trouble.at('until')"><ElDatePicker v-model="form.until" type="date" value-format="YYYY-MM-DD" aria-label="Until" /></ElFormItem>
      </div>
      <div class="pair">
        <ElFormItem label="Kind"><ElSelect v-model="form.kind" aria-label="Kind"><ElOption v-for="k in kinds" :key="k.value" :value="k.value" :label="k.label" /></ElSelect></ElFormItem>
        <ElFormItem label="Licensor"><ElInput v-model="form.licensor" maxlength="200" /></ElFormItem>
        <ElFormItem label="Reference"><ElInput v-model="form.reference" maxlength="200" placeholder="Order number" /></ElFormItem>
      </div>
      <div class="pair">
        <ElFormItem v-for="c in changes" :key="c.key" :label="c.label" :error="c.key === 'subset' ? trouble.at('changes') : ''"><ElSelect v-model="said[c.key]" :aria-label="c.label"><ElOption v-for="o in consents" :key="o.value" :value="o.value" :label="o.label" /></ElSelect></ElFormItem>
      </div>
      <ElFormItem label="Note"><ElInput v-model="form.note" type="textarea" :rows="2" maxlength="5000" /></ElFormItem>
      <ElFormItem label="Documents that prove it">
        <input type="file" multiple aria-label="Documents that prove it" @change="paper = [...(($event.target as HTMLInputElement).files ?? [])]">
      </ElFormItem>
      <p v-if="trouble.text.value && !trouble.field.value" role="alert" class="trouble">{{ trouble.text.value }}</p>
      <div class="row"><ElButton type="primary" native-type="submit" :loading="save.isPending.value">{{ license ? 'Save' : 'Record' }}</ElButton><ElButton @click="open = false">Leave</ElButton></div>
    </ElForm>
  </ElDialog>
</template>

<style scoped>
.pair { display: grid; grid-template-columns: repeat(auto-fit, minmax(10rem, 1fr)); gap: 0 1rem; }
.trouble { color: var(--barred); }
</style>
