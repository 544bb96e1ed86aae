<script setup lang="ts">
import { ElButton, ElDialog, ElForm, ElFormItem, ElInput, ElOption, ElRadio, ElRadioGroup, ElSelect } from 'element-plus'
import { reactive, watch } from 'vue'
import { api, data, type Schemas } from '../api/client'
import { builders, change, clients } from '../api/queries'
import { useTrouble } from '../state/form'

/** Adds a site, or changes the one given. */
const props = defineProps<{ site?: Schemas['Site'] }>()
const emit = defineEmits<{ saved: [site: Schemas['Site']] }>()
const open = defineModel<boolean>({ required: true })
const { data: known } = clients()
const { data: kinds } = builders()
const form = reactive({ name: '', client: undefined as number | undefined, domains: '', builder: 'self-hosted' })
const trouble = useTrouble()

watch(open, (now) => {
  if (!now) return
  trouble.clear()
  const s = props.site
  Object.assign(form, { name: s?.name ?? '', client: s?.client.id, domains: s?.domains.join(', ') ?? '', builder: s?.builder.kind ?? 'self-hosted' })
}, { immediate: true })

const save = change(() => {
  const body = { name: form.name, client: form.client ?? 0, builder: form.builder, domains: form.domains.split(/[\s,]+/).filter(Boolean) }
  return props.site
    ? data(api.PUT('/sites/{id}', { params: { path: { id: props.site.id }, header: { 'If-Match': props.site.etag } }, body }))
    : data(api.POST('/sites', { body }))
}, ['sites', 'families'], (s) => {
  open.value = false
  emit('saved', s)
}, true)

const submit = () => trouble.guard(() => save.mutateAsync(undefined))
</script>

<template>
  <ElDialog v-model="open" :title="site ? 'Change the site' : 'Add a site'" width="min(34rem, 94vw)" top="5vh" append-to-body>
    <ElForm label-position="top" @submit.prevent="submit">
      <ElFormItem label="Name" :error="trouble.at('name')"><ElInput v-model="form.name" maxlength="200" /></ElFormItem>
      <ElFormItem label="Client" :error="trouble.at('client')"><ElSelect v-model="form.client" placeholder="Client" aria-label="Client"><ElOption v-for="c in known?.items ?? []" :key="c.id" :value="c.id" :label="c.name" /></ElSelect></ElFormItem>
      <ElFormItem label="Domains" :error="trouble.at('domains')"><ElInput v-model="form.domains" placeholder="holmvik.example, times.holmvik.example" /></ElFormItem>
      <ElFormItem label="Builder" :error="trouble.at('builder')">
        <ElRadioGroup v-model="form.builder"><ElRadio v-for="b in kinds?.items ?? []" :key="b.kind" :value="b.kind" class="kind">{{ b.name }}<span class="soft small">Takes {{ b.takes }}.</span></ElRadio></ElRadioGroup>
      </ElFormItem>
      <p v-if="trouble.text.value && !trouble.field.value" role="alert" class="trouble">{{ trouble.text.value }}</p>
      <div class="row"><ElButton type="primary" native-type="submit" :loading="save.isPending.value">{{ site ? 'Save' : 'Add' }}</ElButton><ElButton @click="open = false">Leave</ElButton></div>
    </ElForm>
  </ElDialog>
</template>

<style scoped>
.kind { line-height: 1.4; height: auto; align-items: start; margin-bottom: 0.5rem; white-space: normal; width: 100%; }
.kind span { display: block; }
.trouble { color: var(--barred); }
</style>
