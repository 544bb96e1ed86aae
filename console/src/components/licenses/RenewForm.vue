<script setup lang="ts">
import {
  ElButton,
  ElDatePicker,
  ElDialog,
  ElForm,
  ElFormItem,
  ElInput,
  ElInputNumber,
  ElMessage,
  ElRadioButton,
  ElRadioGroup,
} from 'element-plus'
import { computed, reactive, ref, watch } from 'vue'
import { api, data, type Schemas } from '../../api/client'
import { change } from '../../api/queries'
import { useTrouble } from '../../composables/form'
import { term } from '../../composables/show'
import { priceIn, useStated, type Stated } from '../../composables/stated'
import StatedTerms from './StatedTerms.vue'

/** Records the next term of a license: days, price and document in one step. */
const props = defineProps<{ license: Schemas['License'] }>()
const open = defineModel<boolean>({ required: true })
const form = reactive({ from: '', until: '', lasts: 'until', price: '', reference: '', note: '' })
const limits = reactive<Record<'pageViews' | 'seats' | 'apps', number | undefined>>({
  pageViews: undefined,
  seats: undefined,
  apps: undefined,
})
const caps = computed(() =>
  (
    [
      { key: 'pageViews', label: 'Page views a month' },
      { key: 'seats', label: 'Seats' },
      { key: 'apps', label: 'Apps' },
    ] as const
  ).filter((c) => props.license[c.key] !== undefined),
)
const file = ref<File>()
const stated = useStated()
const trouble = useTrouble()
/** Whom the document is for, where that is not the client of the license. */
const otherClient = computed(() => {
  const client = stated.found.value?.client
  return client && client.id !== props.license.grantedTo.id ? client.name : ''
})

const day = (d: Date) => d.toISOString().slice(0, 10)
const nextDay = (d: string) => {
  const at = new Date(d)
  at.setUTCDate(at.getUTCDate() + 1)
  return at
}

const takes = ['from', 'until', 'price', 'reference', 'pageViews', 'seats', 'apps'] as const
function use(t: Stated) {
  const value = t.value!
  if (t.field === 'until') {
    form.lasts = value === 'perpetual' ? 'perpetual' : 'until'
    if (value !== 'perpetual') form.until = value
  } else if (t.field === 'from' || t.field === 'price' || t.field === 'reference') form[t.field] = value
  else if (t.field === 'pageViews' || t.field === 'seats' || t.field === 'apps') limits[t.field] = Number(value)
}

function picked(e: Event) {
  file.value = (e.target as HTMLInputElement).files?.[0]
  if (file.value) void stated.read(file.value)
  else stated.clear()
}

const save = change(
  async () => {
    const paid = form.price.trim() ? priceIn(form.price) : {}
    if (!paid) throw new Error('Write the price with its currency, like 180.00 EUR.')
    const terms: Schemas['Renewing'] = {
      from: form.from || undefined,
      until: form.lasts === 'until' ? form.until || undefined : undefined,
      perpetual: form.lasts === 'perpetual' || undefined,
      reference: form.reference,
      note: form.note || undefined,
      ...paid,
    }
    for (const c of caps.value) terms[c.key] = limits[c.key]
    const body = new FormData()
    body.append('terms', JSON.stringify(terms))
    if (file.value) body.append('file', file.value)
    return data(api.POST('/licenses/{id}/renewal', { params: { path: { id: props.license.id } }, body: body as never }))
  },
  ['licenses', 'families', 'sites', 'due'],
  (l) => {
    open.value = false
    ElMessage.success(`License ${props.license.id} is renewed by license ${l.id}.`)
  },
  true,
)
watch(
  open,
  (now) => {
    if (!now) return
    const l = props.license
    trouble.clear()
    stated.clear()
    file.value = undefined
    const first = l.until ? nextDay(l.until) : new Date()
    const months =
      l.from && l.until
        ? (first.getUTCFullYear() - new Date(l.from).getUTCFullYear()) * 12 +
          first.getUTCMonth() -
          new Date(l.from).getUTCMonth()
        : 12
    const last = new Date(first)
    last.setUTCMonth(last.getUTCMonth() + Math.max(1, months))
    last.setUTCDate(last.getUTCDate() - 1)
    Object.assign(form, {
      from: day(first),
      until: day(last),
      lasts: 'until',
      price: l.price === undefined ? '' : `${(l.price / 100).toFixed(2)} ${l.currency}`,
      reference: l.reference,
      note: '',
    })
    Object.assign(limits, { pageViews: l.pageViews, seats: l.seats, apps: l.apps })
  },
  { immediate: true },
)
</script>

<template>
  <ElDialog
    v-model="open"
    :title="`Renew license ${license.id}`"
    width="min(40rem, 94vw)"
    top="5vh"
    append-to-body
    :close-on-click-modal="false"
  >
    <ElForm label-position="top" @submit.prevent="trouble.guard(() => save.mutateAsync(undefined))">
      <p class="small soft about">
        {{ license.families.map((f) => f.name).join(', ') }} for {{ license.grantedTo.name }}; now {{ term(license) }}.
        Uses, families, seats and apps stay the same. The current license and its documents are kept.
      </p>
      <ElFormItem label="Document of the new term" :error="trouble.at('file')">
        <input type="file" aria-label="Document of the new term" @change="picked" />
        <p v-if="stated.reading.value" class="small soft">Reading it…</p>
        <p v-if="stated.unread.value" class="small soft">{{ stated.unread.value }}</p>
        <p v-if="otherClient" role="alert" class="trouble small">
          This document is for {{ otherClient }}; the license is for {{ license.grantedTo.name }}.
        </p>
        <StatedTerms v-if="stated.found.value" :stated="stated.found.value" :fields="takes" @use="use" />
      </ElFormItem>
      <div class="pair">
        <ElFormItem label="From" :error="trouble.at('from')"
          ><ElDatePicker v-model="form.from" type="date" value-format="YYYY-MM-DD" aria-label="From"
        /></ElFormItem>
        <ElFormItem label="Until" :error="trouble.at('until')">
          <div class="row">
            <ElRadioGroup v-model="form.lasts" aria-label="Until"
              ><ElRadioButton value="until">Last day</ElRadioButton
              ><ElRadioButton value="perpetual">Perpetual</ElRadioButton></ElRadioGroup
            >
            <ElDatePicker
              v-if="form.lasts === 'until'"
              v-model="form.until"
              type="date"
              value-format="YYYY-MM-DD"
              aria-label="Last day"
            />
          </div>
        </ElFormItem>
      </div>
      <div class="pair">
        <ElFormItem label="Price" :error="trouble.at('price') || trouble.at('currency')"
          ><ElInput v-model="form.price" placeholder="180.00 EUR" aria-label="Price"
        /></ElFormItem>
        <ElFormItem label="Reference" :error="trouble.at('reference')"
          ><ElInput v-model="form.reference" maxlength="200" placeholder="Order number" aria-label="Reference"
        /></ElFormItem>
        <ElFormItem v-for="c in caps" :key="c.key" :label="`${c.label}, at most`" :error="trouble.at(c.key)"
          ><ElInputNumber
            v-model="limits[c.key]"
            :min="0"
            :controls="false"
            :value-on-clear="null"
            :aria-label="c.label"
        /></ElFormItem>
      </div>
      <ElFormItem label="Note"><ElInput v-model="form.note" maxlength="5000" aria-label="Note" /></ElFormItem>
      <p v-if="trouble.text.value && !trouble.field.value" role="alert" class="trouble">{{ trouble.text.value }}</p>
      <div class="row">
        <ElButton type="primary" native-type="submit" :loading="save.isPending.value">Record renewal</ElButton
        ><ElButton @click="open = false">Cancel</ElButton>
      </div>
    </ElForm>
  </ElDialog>
</template>

<style scoped>
.about {
  margin: 0 0 0.8rem;
}
.pair {
  display: grid;
  grid-template-columns: repeat(auto-fit, minmax(10rem, 1fr));
  gap: 0 1rem;
}
.trouble {
  color: var(--bad);
}
</style>
