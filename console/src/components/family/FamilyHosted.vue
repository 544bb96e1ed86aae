<script setup lang="ts">
import { ElButton } from 'element-plus'
import { useRouter } from 'vue-router'
import { api, data, type Schemas } from '../../api/client'
import { change } from '../../api/queries'
import { some } from '../../composables/show'
import CopyLine from '../shared/CopyLine.vue'
import TimeAgo from '../shared/TimeAgo.vue'
import { sure } from '../../composables/ask'

/** Where others serve a family from, in the forms a platform may want. */
const props = defineProps<{ family: Schemas['Family']; mayEdit: boolean }>()
const router = useRouter()
const path = { id: props.family.id }
const bring = change(
  (source: number) => data(api.POST('/families/{id}/self-host', { params: { path }, body: { source } })),
  ['imports'],
  (d) => void router.push(`/imports/${d.id}`),
)
const drop = change(
  (sheetId: number) => data(api.DELETE('/families/{id}/hosted/{sheetId}', { params: { path: { ...path, sheetId } } })),
  ['families'],
)
async function ask(h: Schemas['HostedSource']) {
  const says = `Styles of this family no longer load from ${h.host}. To add it again, paste its code.`
  if (await sure('Remove this source?', says, 'Remove')) drop.mutate(h.id)
}
</script>

<template>
  <h2>Hosted elsewhere</h2>
  <section v-for="h in family.hosted" :key="h.id" class="sheet source">
    <div class="row head">
      <h3>{{ h.host }}</h3>
      <span class="soft small"
        >{{ some(h.faces.length, 'rule') }}, read by {{ h.readBy }}, <TimeAgo :at="h.readAt"
      /></span>
      <span v-if="mayEdit" class="row"
        ><ElButton type="primary" :loading="bring.isPending.value" @click="bring.mutate(h.id)">Self-host</ElButton
        ><ElButton @click="ask(h)">Remove</ElButton></span
      >
    </div>
    <p class="notice">{{ h.notice }}</p>
    <CopyLine v-for="s in h.snippets" :key="s.name" :name="s.name" :value="s.text" />
  </section>
</template>

<style scoped>
.source {
  margin-bottom: 0.9rem;
}
.source .head {
  margin: 0;
}
h3 {
  margin: 0;
  font-size: 1rem;
}
.notice {
  color: var(--caution);
}
.source :deep(code) {
  white-space: pre-wrap;
}
</style>
