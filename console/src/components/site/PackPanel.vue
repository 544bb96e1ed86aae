<script setup lang="ts">
import { ElButton, ElOption, ElProgress, ElSelect } from 'element-plus'
import { computed, onBeforeUnmount, ref, toRef } from 'vue'
import { api, base, data as dataOf, type Schemas } from '../../api/client'
import { change, packs, plan } from '../../api/queries'
import { bytes } from '../../composables/show'
import PackChoices from './PackChoices.vue'
import PasteBox from '../shared/PasteBox.vue'
import Trouble from '../shared/Trouble.vue'
import WarningList from './WarningList.vue'
import TimeAgo from '../shared/TimeAgo.vue'

/** What a pack would hold, before anything is built, with every choice; then builds it. */
const props = defineProps<{ site: Schemas['Site']; mayEdit: boolean }>()
const environment = defineModel<string>('environment', { required: true })
const id = computed(() => props.site.id)
const {
  data: p,
  error,
  isFetching,
} = plan(
  id,
  toRef(() => environment.value),
)
const { data: built } = packs(id)
const stopped = computed(() =>
  p.value?.site.families
    .filter((f) => !f.mayGoOut)
    .map((f) => `${f.family.name} is ${f.verdict === 'review' ? 'needing review' : f.verdict}`)
    .join('; '),
)
const made = ref(0)
let watching: ReturnType<typeof setInterval> | undefined
const stop = () => clearInterval(watching)
onBeforeUnmount(stop)
const build = change(
  async () => {
    made.value = 0
    watching = setInterval(async () => {
      const n = await dataOf(api.GET('/sites/{id}/parts', { params: { path: { id: id.value } } }))
      made.value = n.of ? Math.round((100 * n.made) / n.of) : 100
    }, 300)
    try {
      return await dataOf(
        api.POST('/sites/{id}/packs', {
          params: { path: { id: id.value }, query: { environment: environment.value || undefined } },
        }),
      )
    } finally {
      stop()
    }
  },
  ['sites'],
  (pack) => location.assign(`${base}/packs/${pack.id}/content`),
)
</script>

<template>
  <p v-if="!site.families.length" class="soft">Add a family to this site first. Then the pack is planned here.</p>
  <template v-else>
    <Trouble v-if="error" :error="error" />
    <template v-if="p">
      <div class="row">
        <ElSelect v-if="site.environments.length > 1" v-model="environment" aria-label="Environment" class="environment"
          ><ElOption v-for="e in site.environments" :key="e.name" :value="e.name" :label="e.name"
        /></ElSelect>
        <ElButton
          v-if="mayEdit"
          type="primary"
          :disabled="!p.ready || (isFetching && !p.pending)"
          :loading="build.isPending.value"
          @click="build.mutate(undefined)"
          >Build and download</ElButton
        >
        <span v-if="p.pending" class="soft small" role="status"
          >{{ p.pending === 1 ? '1 file is' : `${p.pending} files are` }} in progress; sizes and the upload slip
          follow.</span
        >
        <span v-else-if="isFetching" class="soft small">Updating the plan …</span>
        <span v-else-if="!p.ready" class="alarm">Stopped: {{ stopped }}.</span>
        <span v-else-if="p.for === 'web'" class="soft small"
          >Font weight of a page with every face: {{ bytes(p.delivered) }}, about
          {{ Math.max(0.1, p.slowSeconds).toFixed(1) }} s on slow mobile (1.6 Mbit/s).</span
        >
        <span v-else-if="p.for === 'app'" class="soft small">The app grows by {{ bytes(p.delivered) }}.</span>
      </div>
      <ElProgress
        v-if="build.isPending.value"
        :percentage="made"
        :aria-label="`${made} percent of the parts are made`"
      />
      <h2>Faces</h2>
      <PackChoices :plan="p" :may-edit="mayEdit" :busy="isFetching && !p.pending" />
      <WarningList :warnings="p.warnings" />
      <h2>Files</h2>
      <div class="wide" :class="{ stale: isFetching && !p.pending }">
        <table class="plain small">
          <thead>
            <tr>
              <th>File</th>
              <th class="num">Size</th>
              <th>Why</th>
            </tr>
          </thead>
          <tbody>
            <tr v-for="f in p.files" :key="f.path">
              <td>{{ f.path }}</td>
              <td class="num">{{ f.pending ? 'converting' : bytes(f.bytes) }}</td>
              <td class="soft">
                {{ f.why }}<strong v-if="f.replace" class="again">; replaces the uploaded file</strong>
              </td>
            </tr>
          </tbody>
        </table>
      </div>
      <details v-if="p.slip">
        <summary>The upload slip</summary>
        <iframe :srcdoc="p.slip" title="The upload slip" sandbox="" />
      </details>
      <details v-if="p.stylesheet">
        <summary>The stylesheet</summary>
        <pre class="small" tabindex="0">{{ p.stylesheet }}</pre>
      </details>
      <template v-if="p.stylesheet && !p.missingUrls.length"
        ><PasteBox v-for="t in p.pastes" :key="t.name" :paste="t"
      /></template>
    </template>
    <p v-else-if="!error" class="soft">Planning the pack …</p>
    <template v-if="built?.items.length">
      <h2>Earlier packs</h2>
      <ul class="list small">
        <li v-for="b in built.items" :key="b.id" class="row built">
          <a v-if="mayEdit" :href="`${base}/packs/${b.id}/content`">{{ b.name }}</a><span v-else>{{ b.name }}</span
          ><span class="soft"
            >{{ bytes(b.bytes) }}, {{ b.createdBy }}, <TimeAgo :at="b.createdAt" />, SHA-256
            {{ b.sha256.slice(0, 12) }}…</span
          >
        </li>
      </ul>
      <p class="small">
        After the upload,
        <RouterLink :to="`/sites/${id}/inspections`">inspect the published pages</RouterLink>to see which fonts they
        really show.
      </p>
    </template>
  </template>
</template>

<style scoped>
.wide {
  margin-top: 0.4rem;
}
.stale {
  opacity: 0.5;
}
.alarm {
  color: var(--bad);
  font-weight: 600;
}
.again {
  color: var(--caution);
}
.environment {
  width: 11rem;
}
pre {
  overflow-x: auto;
  background: var(--sheet);
  border: 1px solid var(--rule);
  padding: 0.8rem;
}
iframe {
  width: 100%;
  height: 34rem;
  border: 1px solid var(--rule);
  background: #fbfaf6;
}
summary {
  cursor: pointer;
  color: var(--sea);
  padding: 0.4rem 0;
}
.built {
  padding: 0.35rem 0;
}
</style>
