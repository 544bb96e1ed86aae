<script setup lang="ts">
import { computed, ref } from 'vue'
import { api, base, data, type Schemas } from '../api/client'
import { change } from '../api/queries'
import { bytes, label, term, uses } from '../state/show'
import LicenseForm from './LicenseForm.vue'

const props = defineProps<{ license: Schemas['License']; mayEdit: boolean; withFamilies?: boolean }>()
const editing = ref(false)
const said = computed(() => {
  const names = { subset: 'trimming', outlines: 'changing outlines', name: 'renaming' } as const
  const of = (consent: string) => (Object.keys(names) as (keyof typeof names)[]).filter((k) => props.license.changes[k] === consent).map((k) => names[k]).join(', ')
  return [of('yes') && `allows ${of('yes')}`, of('no') && `forbids ${of('no')}`].filter(Boolean).join('; ')
})

const attach = change(
  (file: File) => {
    const body = new FormData()
    body.append('file', file)
    return data(api.POST('/licenses/{id}/documents', { params: { path: { id: props.license.id } }, body: body as never }))
  },
  ['licenses', 'families', 'sites'],
)

function picked(e: Event) {
  const input = e.target as HTMLInputElement
  for (const f of input.files ?? []) attach.mutate(f)
  input.value = ''
}
</script>

<template>
  <article class="license">
    <div>
      <strong>{{ license.grantedTo.name }}</strong>, {{ license.uses.map((u) => label(uses, u).toLowerCase()).join('; ') }}
      <div class="soft small">
        License {{ license.id }}, {{ license.kind }}<template v-if="license.licensor">, by {{ license.licensor }}</template><template v-if="license.reference">, {{ license.reference }}</template>; {{ term(license) }}<template v-if="said">; {{ said }}</template>
      </div>
      <div v-if="withFamilies" class="small">Covers <template v-for="(f, i) in license.families" :key="f.id">{{ i ? ', ' : '' }}<RouterLink :to="`/families/${f.id}`">{{ f.name }}</RouterLink></template></div>
      <div v-if="license.note" class="small note">{{ license.note }}</div>
    </div>
    <div class="small papers">
      <span v-if="!license.documents.length" class="alarm">No document kept</span>
      <a v-for="d in license.documents" :key="d.id" :href="`${base}/documents/${d.id}/content`" :download="d.name">{{ d.name }} ({{ bytes(d.bytes) }})</a>
      <label v-if="mayEdit" class="act">Add a document<input type="file" class="hidden" multiple @change="picked"></label>
      <button v-if="mayEdit" type="button" class="act" @click="editing = true">Change</button>
    </div>
    <LicenseForm v-if="mayEdit" v-model="editing" :license="license" />
  </article>
</template>

<style scoped>
.license { display: grid; grid-template-columns: minmax(0, 1fr) 16rem; gap: 0.3rem 1.5rem; padding: 0.8rem 0; }
.papers { display: grid; justify-items: start; align-content: start; gap: 0.1rem; overflow-wrap: anywhere; }
.note { font-style: italic; }
.alarm { color: var(--query); font-weight: 600; }
.act { color: var(--sea); background: none; border: 0; padding: 0; font: inherit; cursor: pointer; }
.act:hover { text-decoration: underline; }
.act:focus-within { outline: 2px solid var(--rust); outline-offset: 2px; }
.hidden { position: absolute; width: 1px; height: 1px; opacity: 0; }
@media (max-width: 46rem) { .license { grid-template-columns: minmax(0, 1fr); } }
</style>
