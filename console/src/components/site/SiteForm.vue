<script setup lang="ts">
import { ElButton, ElDialog, ElForm, ElFormItem, ElInput, ElOption, ElSelect } from 'element-plus'
import { reactive, ref, watch } from 'vue'
import { api, data, type Schemas } from '../../api/client'
import { builders, change, clients } from '../../api/queries'
import { useTrouble } from '../../composables/form'
import WhichBuilder from '../builder/WhichBuilder.vue'

/** Adds a site, or changes the one given. */
const props = defineProps<{ site?: Schemas['Site'] }>()
const emit = defineEmits<{ saved: [site: Schemas['Site']] }>()
const open = defineModel<boolean>({ required: true })
const { data: known } = clients()
const { data: kinds } = builders()
const form = reactive({
  name: '',
  client: undefined as number | undefined,
  domains: '',
  builder: 'self-hosted',
  environments: '',
  words: '',
})
const trouble = useTrouble()
const asking = ref(false)

/** One environment a line: its name, and where the files will be. */
const environments = () =>
  form.environments
    .split('\n')
    .map((line) => line.trim())
    .filter(Boolean)
    .map((line) => {
      const [, name, prefix] = /^(.*?)\s+(\S*\/\S*)$/.exec(line) ?? [, line, undefined]
      return { name: name!, prefix }
    })
const save = change(
  () => {
    const body = {
      name: form.name,
      client: form.client ?? 0,
      builder: form.builder,
      domains: form.domains.split(/[\s,]+/).filter(Boolean),
      sampleText: form.words,
      environments: environments(),
    }
    return props.site
      ? data(
          api.PUT('/sites/{id}', {
            params: { path: { id: props.site.id }, header: { 'If-Match': props.site.etag } },
            body,
          }),
        )
      : data(api.POST('/sites', { body }))
  },
  ['sites', 'families'],
  (s) => {
    open.value = false
    emit('saved', s)
  },
  true,
)

const submit = () => trouble.guard(() => save.mutateAsync(undefined))
watch(
  open,
  (now) => {
    if (!now) return
    trouble.clear()
    const s = props.site
    Object.assign(form, {
      name: s?.outlet ?? s?.name ?? '',
      client: s?.client.id,
      domains: s?.domains.join(', ') ?? '',
      builder: s?.builder.kind ?? 'self-hosted',
      words: s?.sampleText ?? '',
      environments: s?.environments.map((e) => (e.prefix ? `${e.name} ${e.prefix}` : e.name)).join('\n') ?? '',
    })
  },
  { immediate: true },
)
</script>

<template>
  <ElDialog
    v-model="open"
    :title="site?.outletOf ? 'Change the outlet' : site ? 'Change the site' : 'Add a site'"
    width="min(34rem, 94vw)"
    top="5vh"
    append-to-body
  >
    <ElForm label-position="top" @submit.prevent="submit">
      <ElFormItem label="Name" :error="trouble.at('name')"><ElInput v-model="form.name" maxlength="200" /></ElFormItem>
      <template v-if="!site?.outletOf">
        <ElFormItem label="Client" :error="trouble.at('client')"
          ><ElSelect v-model="form.client" placeholder="Client" aria-label="Client"
            ><ElOption v-for="c in known?.items ?? []" :key="c.id" :value="c.id" :label="c.name" /></ElSelect
        ></ElFormItem>
        <ElFormItem label="Domains" :error="trouble.at('domains')"
          ><ElInput v-model="form.domains" placeholder="holmvik.example, times.holmvik.example"
        /></ElFormItem>
      </template>
      <ElFormItem label="Builder" :error="trouble.at('builder')">
        <ElSelect v-model="form.builder" filterable aria-label="Builder"
          ><ElOption v-for="b in kinds?.items ?? []" :key="b.rules.kind" :value="b.rules.kind" :label="b.rules.name"
        /></ElSelect>
        <span class="soft small">{{ kinds?.items.find((b) => b.rules.kind === form.builder)?.rules.about }}</span>
        <ElButton link type="primary" @click="asking = true">Which builder is mine?</ElButton>
        <WhichBuilder v-model="asking" choice @choose="form.builder = $event" />
      </ElFormItem>
      <ElFormItem v-if="!site?.outletOf" label="Sample text in the client's words" :error="trouble.at('sampleText')"
        ><ElInput v-model="form.words" maxlength="500" placeholder="Next ferry to Skerry: 16:35"
      /></ElFormItem>
      <ElFormItem
        label="Environments, one per line, with the path of the files if known"
        :error="trouble.at('environments')"
        ><ElInput v-model="form.environments" type="textarea" :rows="2" placeholder="live /fonts/" />
      </ElFormItem>
      <p v-if="trouble.text.value && !trouble.field.value" role="alert" class="trouble">{{ trouble.text.value }}</p>
      <div class="row">
        <ElButton type="primary" native-type="submit" :loading="save.isPending.value">{{
          site ? 'Save' : 'Add'
        }}</ElButton><ElButton @click="open = false">Cancel</ElButton>
      </div>
    </ElForm>
  </ElDialog>
</template>

<style scoped>
.trouble {
  color: var(--bad);
}
</style>
