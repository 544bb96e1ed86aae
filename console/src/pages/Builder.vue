<script setup lang="ts">
import { ElButton, ElForm, ElInput } from 'element-plus'
import { keepPreviousData, useQuery } from '@tanstack/vue-query'
import { computed, ref, toRef, watch } from 'vue'
import { useRouter } from 'vue-router'
import { api, data, type Schemas } from '../api/client'
import { builder, builderVersions, change, me } from '../api/queries'
import BuilderFields from '../components/builder/BuilderFields.vue'
import Trouble from '../components/shared/Trouble.vue'
import UploadTry from '../components/builder/UploadTry.vue'
import TimeAgo from '../components/shared/TimeAgo.vue'
import { begun, save as saveFile, tidy } from '../composables/builder'
import { useTrouble } from '../composables/form'
import { bytes, some } from '../composables/show'
import { sure } from '../composables/ask'

/** Builder rules with a live example: what a pack by them looks like while they are changed. */
const props = defineProps<{ kind: string }>()
const router = useRouter()
const { data: b, error } = builder(toRef(props, 'kind'))
const { data: person } = me()
const mayEdit = computed(() => person.value?.role !== 'viewer')
const draft = ref<Schemas['BuilderRules']>()
const asked = ref<Schemas['BuilderRules']>()
const trouble = useTrouble()
const before = ref(false)
const { data: versions } = builderVersions(toRef(props, 'kind'), before)
watch(
  [b, () => props.kind],
  () => {
    if (b.value && (draft.value?.kind !== b.value.rules.kind || !touched.value)) draft.value = begun(b.value.rules)
  },
  { immediate: true },
)
const now = computed(() => (draft.value ? tidy(draft.value) : undefined))
const same = (x: unknown, y: unknown): boolean => JSON.stringify(sorted(x)) === JSON.stringify(sorted(y))
const sorted = (x: unknown): unknown =>
  Array.isArray(x)
    ? x.map(sorted)
    : x && typeof x === 'object'
      ? Object.fromEntries(
          Object.entries(x)
            .filter(([, v]) => v !== undefined && v !== false && v !== '')
            .sort(([a], [c]) => a.localeCompare(c))
            .map(([k, v]) => [k, sorted(v)]),
        )
      : x
const byRole = (r?: Schemas['BuilderRules']) =>
  r && { ...r, roles: [...(r.roles ?? [])].sort((x, y) => x.role.localeCompare(y.role)) }
const touched = computed(() => !!b.value && !!now.value && !same(byRole(now.value), byRole(tidy(b.value.rules))))
let soon: ReturnType<typeof setTimeout> | undefined
watch(
  now,
  (rules) => {
    clearTimeout(soon)
    soon = setTimeout(() => (asked.value = rules), asked.value ? 250 : 0)
  },
  { immediate: true },
)
const { data: example } = useQuery({
  queryKey: ['example', asked],
  enabled: () => !!asked.value,
  placeholderData: keepPreviousData,
  queryFn: () => data(api.POST('/builders/example', { body: asked.value! })),
})
const keep = change(
  () =>
    data(
      api.PUT('/builders/{kind}', {
        params: { path: { kind: props.kind }, header: { 'If-Match': b.value!.etag } },
        body: now.value!,
      }),
    ),
  ['builders', 'sites'],
  (fresh) => (draft.value = begun(fresh.rules)),
  true,
)
const copyAs = change(
  (named: { kind: string; name: string }) => data(api.POST('/builders', { body: { ...now.value!, ...named } })),
  ['builders'],
  (fresh) => router.push(`/builders/${fresh.rules.kind}`),
  true,
)
const drop = change(
  () => data(api.DELETE('/builders/{kind}', { params: { path: { kind: props.kind } } })),
  ['builders'],
  () => router.push('/builders'),
)
const copyName = ref('')
const kindOf = (name: string) =>
  name
    .trim()
    .toLowerCase()
    .replace(/[^a-z0-9]+/g, '-')
    .replace(/^-|-$/g, '')
    .slice(0, 40)
async function away() {
  const says = `${b.value!.rules.name} is deleted. Packs that were built with it stay. This cannot be undone.`
  if (await sure('Delete these rules?', says, 'Delete')) drop.mutate(undefined)
}
</script>

<template>
  <div class="page">
    <Trouble v-if="error" :error="error" />
    <template v-else-if="b && draft">
      <div class="head">
        <div>
          <p class="soft small crumb"><RouterLink to="/builders">Builders</RouterLink> / {{ b.rules.kind }}</p>
          <h1>{{ b.rules.name }}</h1>
          <div class="soft small">
            {{
              b.shipped
                ? b.version > 1
                  ? `Shipped, changed: version ${b.version}`
                  : 'As shipped'
                : `Your own, version ${b.version}`
            }}<template v-if="b.changedBy">, {{ b.changedBy }}, <TimeAgo :at="b.changedAt!" /></template
            ><template v-if="b.sites.length"
              >. Sites:
              <template v-for="(s, i) in b.sites" :key="s.id"
                ><template v-if="i">, </template
                ><RouterLink :to="`/sites/${s.id}/pack`">{{ s.name }}</RouterLink></template
              ></template
            >
          </div>
        </div>
        <div class="row">
          <ElButton @click="saveFile(`${b.rules.kind}.json`, `${JSON.stringify(b.rules, null, 2)}\n`)">Export</ElButton
          ><ElButton v-if="mayEdit && !b.shipped" @click="away">Delete</ElButton>
        </div>
      </div>
      <div class="two">
        <ElForm
          label-position="top"
          :disabled="!mayEdit"
          @submit.prevent="trouble.guard(() => keep.mutateAsync(undefined))"
        >
          <BuilderFields v-model="draft" :wrong="example?.wrong ?? []" />
          <p v-if="trouble.text.value" role="alert" class="wrong">{{ trouble.text.value }}</p>
          <div v-if="mayEdit" class="row">
            <ElButton
              type="primary"
              native-type="submit"
              :disabled="!touched || !!example?.wrong.length"
              :loading="keep.isPending.value"
              >Save as version {{ b.version + 1 }}</ElButton
            >
            <ElButton v-if="touched" @click="draft = begun(b.rules)">Discard changes</ElButton>
          </div>
          <div v-if="mayEdit" class="row copy">
            <ElInput
              v-model="copyName"
              placeholder="Name of the copy"
              aria-label="Name of the copy"
              maxlength="120"
              class="copyname"
              @keydown.enter.prevent
            />
            <ElButton
              :disabled="kindOf(copyName).length < 2"
              @click="trouble.guard(() => copyAs.mutateAsync({ kind: kindOf(copyName), name: copyName.trim() }))"
              >Copy</ElButton
            >
          </div>
        </ElForm>
        <aside aria-label="Live example" class="example">
          <h2>Upload slip, as these rules make it</h2>
          <ul v-if="example?.wrong.length" class="wrong small">
            <li v-for="w in example.wrong" :key="w.field + w.message">{{ w.message }}</li>
          </ul>
          <template v-else-if="example">
            <iframe :srcdoc="example.slip" title="The upload slip of the example" sandbox="" />
            <details open>
              <summary>{{ some(example.files.length, 'file') }} in the pack</summary>
              <div class="wide">
                <table class="plain small">
                  <thead>
                    <tr>
                      <th>File</th>
                      <th>Why</th>
                    </tr>
                  </thead>
                  <tbody>
                    <tr v-for="f in example.files" :key="f.path">
                      <td>
                        {{ f.path }}<span v-if="!f.format" class="soft">{{ ` ${bytes(f.bytes)}` }}</span>
                      </td>
                      <td class="soft">{{ f.why }}</td>
                    </tr>
                  </tbody>
                </table>
              </div>
            </details>
            <details v-if="example.styles">
              <summary>Styles</summary>
              <pre class="small" tabindex="0">{{ example.styles }}</pre>
            </details>
          </template>
          <UploadTry :key="kind" :kind="kind" :fields="b.rules.form?.fields.map((f) => f.label) ?? []" />
          <details @toggle="before = ($event.target as HTMLDetailsElement).open">
            <summary>Versions</summary>
            <ul class="list small">
              <li v-for="v in versions ?? []" :key="v.version" class="version">
                <strong>Version {{ v.version }}</strong>
                <span class="soft"
                  >{{ v.person }}<template v-if="v.version > 1 || !b.shipped">, <TimeAgo :at="v.at" /></template
                ></span>
                <ul>
                  <li v-for="c in v.changes" :key="c.field">
                    {{ c.field }}: {{ c.from || 'nothing' }} → {{ c.to || 'nothing' }}
                  </li>
                </ul>
                <ElButton v-if="mayEdit && v.version !== b.version" size="small" text @click="draft = begun(v.rules)"
                  >Start from this version</ElButton
                >
              </li>
            </ul>
          </details>
        </aside>
      </div>
    </template>
    <p v-else class="soft">Loading …</p>
  </div>
</template>

<style scoped>
.crumb {
  margin: 0 0 0.2rem;
}
.two {
  display: grid;
  grid-template-columns: minmax(0, 1fr) minmax(0, 1fr);
  gap: 1.5rem;
  align-items: start;
}
.example {
  position: sticky;
  top: 0.5rem;
  max-height: calc(100vh - 1rem);
  overflow: auto;
  padding-right: 0.3rem;
}
.example h2:first-child {
  margin-top: 0;
}
.copy {
  margin-top: 0.8rem;
}
.copyname {
  width: min(18rem, 100%);
}
.wrong {
  color: var(--bad);
}
.version {
  padding: 0.4rem 0;
}
.version ul {
  margin: 0.2rem 0;
  padding-left: 1.1rem;
  overflow-wrap: anywhere;
}
iframe {
  width: 100%;
  height: 30rem;
  border: 1px solid var(--rule);
  background: #fbfaf6;
}
pre {
  overflow-x: auto;
  background: var(--sheet);
  border: 1px solid var(--rule);
  padding: 0.8rem;
}
summary {
  cursor: pointer;
  color: var(--sea);
  padding: 0.4rem 0;
}
@media (max-width: 60rem) {
  .two {
    grid-template-columns: minmax(0, 1fr);
  }
  .example {
    position: static;
    max-height: none;
  }
}
</style>
