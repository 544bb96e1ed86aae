<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { ElButton } from 'element-plus'
import { computed } from 'vue'
import { api, data, type Schemas } from '../../api/client'
import { change } from '../../api/queries'
import { saveBlob } from '../../composables/builder'
import { some } from '../../composables/show'
import TimeAgo from '../shared/TimeAgo.vue'

/** The sites that carry an old version of the family, and their packs built anew in one zip. */
const props = defineProps<{ family: Schemas['Family']; mayEdit: boolean }>()
const path = { id: props.family.id }
const { data: plan } = useQuery({
  queryKey: ['families', props.family.id, 'rebuild'],
  queryFn: () => data(api.GET('/families/{id}/rebuild', { params: { path } })),
})
const items = computed(() => plan.value?.items ?? [])
const build = change(async () => {
  const zip = await data(api.POST('/families/{id}/rebuild', { params: { path }, parseAs: 'blob' }))
  saveBlob(zip as unknown as Blob, `${props.family.name} everywhere.zip`)
}, ['families', 'sites'])
</script>

<template>
  <section v-if="items.length" class="sheet" aria-label="Sites on an old version">
    <div class="row head">
      <h3>{{ some(items.length, 'pack') }} with an old version</h3>
      <ElButton
        v-if="mayEdit"
        type="primary"
        :disabled="items.every((i) => i.stops)"
        :loading="build.isPending.value"
        @click="build.mutate(undefined)"
        >Rebuild all packs</ElButton
      >
    </div>
    <ul class="list small">
      <li v-for="i in items" :key="`${i.site.id} ${i.environment}`" class="one">
        <RouterLink :to="`/sites/${i.site.id}/pack`">{{ i.site.name }}</RouterLink><template v-if="i.environment"
          >, {{ i.environment }}</template
        >
        <span class="soft"> {{ i.client }}; {{ i.builder }}; last pack <TimeAgo :at="i.builtAt" /></span>
        <p v-if="i.stops" class="stops">Cannot be built: {{ i.stops }}</p>
        <ul v-else>
          <li v-for="c in i.changes" :key="c">{{ c }}</li>
        </ul>
      </li>
    </ul>
    <p v-if="mayEdit" class="soft small">One zip with the packs, their upload slips and a checklist.</p>
  </section>
</template>

<style scoped>
.head {
  justify-content: space-between;
}
h3 {
  margin: 0;
  font-size: 1rem;
}
.one {
  padding: 0.4rem 0;
}
.one ul,
.stops {
  margin: 0.2rem 0 0;
}
.one ul {
  padding-left: 1.1rem;
}
.stops {
  color: var(--bad);
}
</style>
