<script setup lang="ts">
import { ElButton, ElOption, ElSelect } from 'element-plus'
import { ref } from 'vue'
import { LicenseForm } from '../forms'
import { api, base, data, type Schemas } from '../../api/client'
import { change, me } from '../../api/queries'
import { bytes } from '../../composables/show'

/** Documents that came with a family's files, to be added to its licenses. */
const props = defineProps<{ family: Schemas['Family'] }>()
const { data: person } = me()
const keep = change(
  (k: { license: number; document: number }) =>
    data(
      api.POST('/licenses/{id}/family-documents', {
        params: { path: { id: k.license } },
        body: { document: k.document },
      }),
    ),
  ['families', 'licenses'],
)
const kept = (p: Schemas['FamilyDocument'], l: Schemas['License']) => l.documents.some((d) => d.sha256 === p.sha256)
const free = (p: Schemas['FamilyDocument']) => props.family.licenses.filter((l) => !kept(p, l))
const from = ref<Schemas['FamilyDocument']>()
const recording = ref(false)
function record(p: Schemas['FamilyDocument']) {
  from.value = p
  recording.value = true
}
const called = (l: Schemas['License']) => `License ${l.id}${l.reference ? `, ${l.reference}` : ''}`
</script>

<template>
  <ul class="list">
    <li v-for="p in family.documents" :key="p.id" class="row document">
      <a :href="`${base}/family-documents/${p.id}/content?inline=true`" target="_blank">{{ p.name }}</a><span
        class="soft small"
        >{{ bytes(p.bytes) }}</span
      >
      <span v-for="l in family.licenses.filter((l) => kept(p, l))" :key="l.id" class="small clear"
        >document of {{ called(l).toLowerCase() }}</span
      >
      <ElSelect
        v-if="person?.role !== 'viewer' && free(p).length"
        :model-value="undefined"
        class="pick"
        size="small"
        placeholder="Keep as document of …"
        :aria-label="`Keep ${p.name} as document of`"
        @change="(license: number) => keep.mutate({ license, document: p.id })"
      >
        <ElOption v-for="l in free(p)" :key="l.id" :value="l.id" :label="called(l)" />
      </ElSelect>
      <ElButton
        v-if="person?.role !== 'viewer'"
        size="small"
        text
        :aria-label="`Record a license from ${p.name}`"
        @click="record(p)"
        >Record a license from it</ElButton
      >
    </li>
  </ul>
  <LicenseForm v-if="from" v-model="recording" :families="[family]" :client="family.client.id" :document="from" />
</template>

<style scoped>
.document {
  padding: 0.35rem 0;
}
.pick {
  width: 15rem;
}
.cleared {
  color: var(--good);
}
</style>
