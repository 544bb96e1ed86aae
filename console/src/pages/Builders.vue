<script setup lang="ts">
import { ElButton } from 'element-plus'
import { computed, ref } from 'vue'
import { useRouter } from 'vue-router'
import { api, data, type Schemas } from '../api/client'
import { builders, change, me } from '../api/queries'
import { useTrouble } from '../composables/form'
import { forms } from '../composables/builder'
import { label, some } from '../composables/show'
import WhichBuilder from '../components/builder/WhichBuilder.vue'
import Trouble from '../components/shared/Trouble.vue'

/** Builder rules: what each kind of platform wants. */
const router = useRouter()
const { data: found, error } = builders()
const { data: person } = me()
const mayEdit = computed(() => person.value?.role !== 'viewer')
const asking = ref(false)
const trouble = useTrouble()
const file = ref<HTMLInputElement>()
const put = change(
  async (text: string) => {
    let rules: Schemas['BuilderRules']
    try {
      rules = JSON.parse(text)
    } catch (e) {
      throw new Error(`The file is not JSON: ${e instanceof Error ? e.message : e}`, { cause: e })
    }
    const there = found.value?.items.find((b) => b.rules.kind === rules.kind)
    return there
      ? data(
          api.PUT('/builders/{kind}', {
            params: { path: { kind: rules.kind }, header: { 'If-Match': there.etag } },
            body: rules,
          }),
        )
      : data(api.POST('/builders', { body: rules }))
  },
  ['builders', 'sites'],
  (b) => router.push(`/builders/${b.rules.kind}`),
  true,
)
async function pick(e: Event) {
  const one = (e.target as HTMLInputElement).files?.[0]
  if (one) await trouble.guard(async () => put.mutateAsync(await one.text()))
  if (file.value) file.value.value = ''
}
const state = (b: Schemas['BuilderRecord']) =>
  b.shipped ? (b.version > 1 ? `changed, version ${b.version}` : 'as shipped') : `your own, version ${b.version}`
</script>

<template>
  <div class="page">
    <div class="head">
      <h1>Builders</h1>
      <span class="row">
        <ElButton type="primary" @click="asking = true">Which builder is mine?</ElButton>
        <ElButton v-if="mayEdit" @click="file?.click()">Import a file</ElButton
        ><input
          v-if="mayEdit"
          ref="file"
          type="file"
          accept=".json,application/json"
          class="hidden"
          aria-label="Builder rules, a file"
          @change="pick"
      /></span>
    </div>
    <p class="soft">
      What each kind of platform accepts, how it wants files named and forms filled in, and where styles go. Packs
      follow these rules. Open one to see its upload slip, to change it or to copy it.
    </p>
    <Trouble v-if="error" :error="error" />
    <p v-if="trouble.text.value" role="alert" class="trouble">{{ trouble.text.value }}</p>
    <ul class="list">
      <li v-for="b in found?.items ?? []" :key="b.rules.kind" class="one">
        <div>
          <RouterLink class="name" :to="`/builders/${b.rules.kind}`">{{ b.rules.name }}</RouterLink>
          <div class="soft small">{{ b.rules.about }}</div>
        </div>
        <div class="small">
          {{ b.rules.files.formats.join(', ').toUpperCase() }}
          <div class="soft">{{ label(forms, b.rules.styles.form) }}</div>
        </div>
        <div class="small soft">
          {{ state(b) }}
          <div>{{ b.sites.length ? some(b.sites.length, 'site') : '' }}</div>
        </div>
      </li>
    </ul>
    <WhichBuilder v-model="asking" />
  </div>
</template>

<style scoped>
.one {
  display: grid;
  grid-template-columns: minmax(0, 2fr) minmax(0, 1fr) 10rem;
  gap: 0.4rem 1.5rem;
  padding: 0.75rem 0;
}
.name {
  font-weight: 650;
}
.hidden {
  display: none;
}
.trouble {
  color: var(--bad);
}
@media (max-width: 46rem) {
  .one {
    grid-template-columns: 1fr;
  }
}
</style>
