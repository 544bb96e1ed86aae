<script setup lang="ts">
import {
  ElButton,
  ElCheckbox,
  ElCheckboxGroup,
  ElDatePicker,
  ElDialog,
  ElForm,
  ElFormItem,
  ElInput,
  ElInputNumber,
  ElMessage,
  ElOption,
  ElSelect,
} from 'element-plus'
import { useQuery } from '@tanstack/vue-query'
import { computed, reactive, ref, watch } from 'vue'
import { api, data, message, type Schemas } from '../../api/client'
import { change, clients, templates } from '../../api/queries'
import { useTrouble } from '../../composables/form'
import { uses } from '../../composables/show'
import { priceIn, statedFields, useStated, type Stated } from '../../composables/stated'
import FamilyPicker from '../shared/FamilyPicker.vue'
import StatedTerms from './StatedTerms.vue'

/** Records a license, changes the one given, or records another like it. */
const props = defineProps<{
  license?: Schemas['License']
  families?: Schemas['Ref'][]
  client?: number
  copy?: boolean
  /** One that came with the family: it is read, and kept as evidence. */
  document?: Schemas['FamilyDocument']
}>()
const open = defineModel<boolean>({ required: true })
const { data: known } = clients()
const kinds = [
  { value: 'bought', label: 'Bought' },
  { value: 'client', label: 'Supplied by the client' },
  { value: 'open', label: 'Open' },
  { value: 'commissioned', label: 'Commissioned' },
]
const form = reactive<Schemas['LicenseTerms']>({ kind: 'bought', grantedTo: 0, uses: [], families: [] })
const consents = [
  { value: 'not-said', label: 'Not said' },
  { value: 'yes', label: 'Allowed' },
  { value: 'no', label: 'Forbidden' },
]
const changes = [
  { key: 'subset', label: 'Subsetting' },
  { key: 'outlines', label: 'Changing outlines' },
  { key: 'name', label: 'Renaming it' },
  { key: 'format', label: 'Converting it' },
] as const
const said = reactive<Required<Schemas['LicensedChanges']>>({
  subset: 'not-said',
  outlines: 'not-said',
  name: 'not-said',
  format: 'not-said',
})
const renewals = [
  { value: '', label: 'Not said' },
  { value: 'by-hand', label: 'By hand' },
  { value: 'automatic', label: 'Automatic' },
  { value: 'none', label: 'No renewal' },
]
const chosenFiles = ref<File[]>([])
const like = ref<number>()
const keepAs = ref('')
const more = reactive({
  domains: '',
  price: '',
  renewal: '',
  limits: { pageViews: undefined, seats: undefined, apps: undefined } as Record<
    'pageViews' | 'seats' | 'apps',
    number | undefined
  >,
})
const caps = [
  { key: 'pageViews', label: 'Page views a month', uses: ['web', 'web-hosted'] },
  { key: 'seats', label: 'Seats', uses: ['desktop'] },
  { key: 'apps', label: 'Apps', uses: ['app'] },
] as const
const asked = computed(() =>
  caps.filter((c) => c.uses.some((u) => form.uses.includes(u)) || more.limits[c.key] !== undefined),
)
const { data: usual } = templates()
const faceIds = ref<number[]>([])
/** The faces to choose among, where one family is covered. */
const { data: covered } = useQuery({
  queryKey: ['families', 'one', computed(() => form.families[0] ?? 0)],
  enabled: () => open.value && form.families.length === 1,
  queryFn: () => data(api.GET('/families/{id}', { params: { path: { id: form.families[0]! } } })),
})
const trouble = useTrouble()

/** Begins with the terms of a usual kind of license. */
function begin(id: number | undefined) {
  const t = usual.value?.items.find((u) => u.id === id)?.terms
  if (!t) return
  if (t.kind) form.kind = t.kind
  if (t.uses) form.uses = [...t.uses]
  if (t.licensor) form.licensor = t.licensor
  if (t.note) form.note = t.note
  if (t.renewal) more.renewal = t.renewal
  Object.assign(said, t.changes)
  Object.assign(more.limits, { pageViews: t.pageViews, seats: t.seats, apps: t.apps })
  if (t.months) {
    const day = new Date()
    form.from = day.toISOString().slice(0, 10)
    day.setUTCMonth(day.getUTCMonth() + t.months)
    day.setUTCDate(day.getUTCDate() - 1)
    form.until = day.toISOString().slice(0, 10)
  }
}
const stated = useStated()
const takes = Object.keys(statedFields).filter((f) => f !== 'not-use') as Stated['field'][]
/** Takes what a document states into the form. */
function use(t: Stated) {
  const value = t.value!
  switch (t.field) {
    case 'granted-to':
      form.grantedTo = stated.found.value?.client?.id ?? form.grantedTo
      break
    case 'use':
      if (!form.uses.includes(value as Schemas['Use'])) form.uses.push(value as Schemas['Use'])
      break
    case 'until':
      form.until = value === 'perpetual' ? undefined : value
      break
    case 'domain':
      more.domains = [more.domains, value].filter(Boolean).join(', ')
      break
    case 'price':
      more.price = value
      break
    case 'pageViews':
    case 'seats':
    case 'apps':
      more.limits[t.field] = Number(value)
      break
    case 'licensor':
    case 'reference':
    case 'from':
      form[t.field] = value
  }
}
function useFamilies(named: Schemas['Ref'][]) {
  for (const f of named) if (!form.families.includes(f.id)) form.families.push(f.id)
}
function picked(e: Event) {
  chosenFiles.value = [...((e.target as HTMLInputElement).files ?? [])]
  if (chosenFiles.value[0]) void stated.read(chosenFiles.value[0])
  else stated.clear()
}

const save = change(
  async () => {
    const paid = more.price.trim() ? priceIn(more.price) : {}
    if (!paid) throw new Error('Write the price with its currency, like 180.00 EUR.')
    const limit = (key: 'pageViews' | 'seats' | 'apps') =>
      asked.value.some((c) => c.key === key) ? (more.limits[key] ?? undefined) : undefined
    const body = {
      ...form,
      changes: { ...said },
      from: form.from || undefined,
      until: form.until || undefined,
      ...paid,
      faces: faceIds.value,
      domains: more.domains.split(/[\s,;]+/).filter(Boolean),
      renewal: (more.renewal || undefined) as Schemas['Renewal'] | undefined,
      spdx: form.kind === 'open' ? form.spdx || undefined : undefined,
      pageViews: limit('pageViews'),
      seats: limit('seats'),
      apps: limit('apps'),
    }
    if (keepAs.value.trim()) {
      const terms = {
        kind: form.kind,
        uses: form.uses,
        licensor: form.licensor || undefined,
        note: form.note || undefined,
        changes: { ...said },
        renewal: body.renewal,
        pageViews: body.pageViews,
        seats: body.seats,
        apps: body.apps,
        months: months(form.from, form.until),
      }
      await data(api.POST('/license-templates', { body: { name: keepAs.value, terms } }))
    }
    const l =
      props.license && !props.copy
        ? await data(
            api.PUT('/licenses/{id}', {
              params: { path: { id: props.license.id }, header: { 'If-Match': props.license.etag } },
              body,
            }),
          )
        : await data(api.POST('/licenses', { body }))
    if (props.document) {
      const kept = { params: { path: { id: l.id } }, body: { document: props.document.id } }
      await data(api.POST('/licenses/{id}/family-documents', kept))
    }
    for (const file of chosenFiles.value) {
      const parts = new FormData()
      parts.append('file', file)
      // The license is recorded; that one of its documents is refused is said, and is no reason to record it again.
      await data(api.POST('/licenses/{id}/documents', { params: { path: { id: l.id } }, body: parts as never })).catch(
        (e) =>
          ElMessage({
            type: 'error',
            message: `${file.name} was not kept: ${message(e)}`,
            duration: 10_000,
            showClose: true,
          }),
      )
    }
  },
  ['licenses', 'families', 'sites', 'templates'],
  () => (open.value = false),
  true,
)
const months = (from?: string, until?: string) =>
  from && until ? Math.max(1, Math.round((Date.parse(until) - Date.parse(from)) / (30.4 * 864e5))) : undefined

const submit = () => trouble.guard(() => save.mutateAsync(undefined))
watch(
  open,
  (now) => {
    if (!now) return
    const l = props.license
    trouble.clear()
    chosenFiles.value = []
    stated.clear()
    Object.assign(form, {
      kind: l?.kind ?? 'bought',
      grantedTo: l?.grantedTo.id ?? props.client,
      licensor: l?.licensor ?? '',
      reference: l?.reference ?? '',
      uses: [...(l?.uses ?? ['web'])],
      from: l?.from,
      until: l?.until,
      note: l?.note ?? '',
      families: l?.families.map((f) => f.id) ?? (props.families ?? []).map((f) => f.id),
    })
    Object.assign(said, { subset: 'not-said', outlines: 'not-said', name: 'not-said', format: 'not-said' }, l?.changes)
    if (l && props.copy) Object.assign(form, { reference: '' })
    Object.assign(more, {
      domains: l?.domains.join(', ') ?? '',
      price: l?.price === undefined ? '' : `${(l.price / 100).toFixed(2)} ${l.currency}`,
      renewal: l?.renewal ?? '',
      limits: { pageViews: l?.pageViews, seats: l?.seats, apps: l?.apps },
    })
    faceIds.value = [...(l?.faces ?? [])]
    form.spdx = l?.spdx
    like.value = undefined
    keepAs.value = ''
    if (props.document) void stated.readFamilyDocument(props.document.id)
  },
  { immediate: true },
)
</script>

<template>
  <ElDialog
    v-model="open"
    :title="
      license ? (copy ? `Another license like ${license.id}` : `Change license ${license.id}`) : 'Record a license'
    "
    width="min(38rem, 94vw)"
    top="5vh"
    append-to-body
  >
    <ElForm label-position="top" @submit.prevent="submit">
      <ElFormItem label="Documents">
        <input type="file" multiple aria-label="Documents" @change="picked" />
        <p v-if="stated.reading.value" class="small soft">Reading it…</p>
        <p v-if="stated.unread.value" class="small soft">{{ stated.unread.value }}</p>
        <StatedTerms
          v-if="stated.found.value"
          :stated="stated.found.value"
          :fields="takes"
          @use="use"
          @families="useFamilies"
        />
      </ElFormItem>
      <ElFormItem v-if="!license && usual?.items.length" label="Start from template">
        <ElSelect v-model="like" clearable placeholder="No template" aria-label="Start from template" @change="begin"
          ><ElOption v-for="t in usual.items" :key="t.id" :value="t.id" :label="t.name"
        /></ElSelect>
      </ElFormItem>
      <ElFormItem label="Covers" :error="trouble.at('families')">
        <FamilyPicker
          v-model="form.families"
          multiple
          placeholder="Families"
          label="Covers"
          :client="known?.items.find((c) => c.id === form.grantedTo)?.name"
          :known="license?.families ?? families"
        />
      </ElFormItem>
      <ElFormItem label="Granted to" :error="trouble.at('grantedTo')">
        <ElSelect v-model="form.grantedTo" placeholder="Client" aria-label="Granted to"
          ><ElOption v-for="c in known?.items ?? []" :key="c.id" :value="c.id" :label="c.name"
        /></ElSelect>
      </ElFormItem>
      <ElFormItem label="Allows" :error="trouble.at('uses')">
        <ElCheckboxGroup v-model="form.uses"
          ><ElCheckbox v-for="u in uses" :key="u.value" :value="u.value" :label="u.label"
        /></ElCheckboxGroup>
      </ElFormItem>
      <div class="pair">
        <ElFormItem label="First day (optional)"
          ><ElDatePicker v-model="form.from" type="date" value-format="YYYY-MM-DD" aria-label="From"
        /></ElFormItem>
        <ElFormItem label="Last day (empty: perpetual)" :error="trouble.at('until')"
          ><ElDatePicker v-model="form.until" type="date" value-format="YYYY-MM-DD" aria-label="Until"
        /></ElFormItem>
      </div>
      <div class="pair">
        <ElFormItem label="Kind"
          ><ElSelect v-model="form.kind" aria-label="Kind"
            ><ElOption v-for="k in kinds" :key="k.value" :value="k.value" :label="k.label" /></ElSelect
        ></ElFormItem>
        <ElFormItem label="Licensor"><ElInput v-model="form.licensor" maxlength="200" /></ElFormItem>
        <ElFormItem label="Reference"
          ><ElInput v-model="form.reference" maxlength="200" placeholder="Order number"
        /></ElFormItem>
      </div>
      <div class="pair">
        <ElFormItem
          v-for="c in changes"
          :key="c.key"
          :label="c.label"
          :error="c.key === 'subset' ? trouble.at('changes') : ''"
          ><ElSelect v-model="said[c.key]" :aria-label="c.label"
            ><ElOption v-for="o in consents" :key="o.value" :value="o.value" :label="o.label" /></ElSelect
        ></ElFormItem>
      </div>
      <div class="pair">
        <ElFormItem v-for="c in asked" :key="c.key" :label="`${c.label}, at most`" :error="trouble.at(c.key)"
          ><ElInputNumber
            v-model="more.limits[c.key]"
            :min="0"
            :controls="false"
            :value-on-clear="null"
            placeholder="No limit"
            :aria-label="c.label"
        /></ElFormItem>
      </div>
      <details class="further">
        <summary>Domains, faces, price, renewal</summary>
        <ElFormItem label="Only for these domains and their subdomains" :error="trouble.at('domains')"
          ><ElInput v-model="more.domains" placeholder="Any" aria-label="Domains"
        /></ElFormItem>
        <ElFormItem
          v-if="faceIds.length || (form.families.length === 1 && (covered?.faces.length ?? 0) > 1)"
          label="Only these faces"
          :error="trouble.at('faces')"
        >
          <ElSelect v-model="faceIds" multiple clearable placeholder="All" aria-label="Faces"
            ><ElOption
              v-for="f in form.families.length === 1 ? (covered?.faces ?? []) : []"
              :key="f.id"
              :value="f.id"
              :label="f.style"
          /></ElSelect>
        </ElFormItem>
        <div class="pair">
          <ElFormItem label="Price" :error="trouble.at('price') || trouble.at('currency')"
            ><ElInput v-model="more.price" placeholder="180.00 EUR" aria-label="Price"
          /></ElFormItem>
          <ElFormItem label="Renewal" :error="trouble.at('renewal')"
            ><ElSelect v-model="more.renewal" aria-label="Renewal"
              ><ElOption v-for="r in renewals" :key="r.value" :value="r.value" :label="r.label" /></ElSelect
          ></ElFormItem>
          <ElFormItem v-if="form.kind === 'open'" label="SPDX identifier" :error="trouble.at('spdx')"
            ><ElInput v-model="form.spdx" placeholder="OFL-1.1" aria-label="SPDX identifier"
          /></ElFormItem>
        </div>
        <ElFormItem label="Save these terms as a template named"
          ><ElInput v-model="keepAs" maxlength="200" placeholder="Not saved" aria-label="Template name"
        /></ElFormItem>
      </details>
      <ElFormItem label="Note"><ElInput v-model="form.note" type="textarea" :rows="2" maxlength="5000" /></ElFormItem>
      <p v-if="trouble.text.value && !trouble.field.value" role="alert" class="trouble">{{ trouble.text.value }}</p>
      <div class="row">
        <ElButton type="primary" native-type="submit" :loading="save.isPending.value">{{
          license && !copy ? 'Save' : 'Record'
        }}</ElButton><ElButton @click="open = false">Cancel</ElButton>
      </div>
    </ElForm>
  </ElDialog>
</template>

<style scoped>
.pair {
  display: grid;
  grid-template-columns: repeat(auto-fit, minmax(10rem, 1fr));
  gap: 0 1rem;
}
.further {
  margin-bottom: 1rem;
}
.further summary {
  cursor: pointer;
  color: var(--sea);
  margin-bottom: 0.5rem;
}
.trouble {
  color: var(--bad);
}
</style>
