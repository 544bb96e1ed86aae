<script setup lang="ts">
import { computed, toRef } from 'vue'
import { useRoute } from 'vue-router'
import { base } from '../api/client'
import { family } from '../api/queries'
import FaceCode from '../components/face/FaceCode.vue'
import FaceCoverage from '../components/face/FaceCoverage.vue'
import FaceDetails from '../components/face/FaceDetails.vue'
import FaceFallback from '../components/face/FaceFallback.vue'
import FaceFeatures from '../components/face/FaceFeatures.vue'
import FaceHistory from '../components/face/FaceHistory.vue'
import FaceFormats from '../components/face/FaceFormats.vue'
import FaceLook from '../components/face/FaceLook.vue'
import FaceReshape from '../components/face/FaceReshape.vue'
import FaceVersions from '../components/face/FaceVersions.vue'
import GlyphMap from '../components/face/GlyphMap.vue'
import PageTabs from '../components/shared/PageTabs.vue'
import SampleControls from '../components/shared/SampleControls.vue'
import Trouble from '../components/shared/Trouble.vue'
import VerdictTag from '../components/shared/VerdictTag.vue'
import { faceTabs, styleOrder } from '../composables/faces'
import { usePerson } from '../composables/person'
import { useTaste } from '../composables/taste'

/** A face of a family; only the open tab is rendered. */
const props = defineProps<{ id: number; faceId: number }>()
const { data: f, error } = family(toRef(props, 'id'))
const person = usePerson()
const mayEdit = computed(() => person.value?.role !== 'viewer')
const taste = useTaste()
const route = useRoute()
const face = computed(() => f.value?.faces.find((o) => o.id === props.faceId))
const metadata = computed(() => face.value?.metadata)
const file = computed(() => face.value?.files.find((o) => o.current) ?? face.value?.files[0])
const tabs = computed(() => faceTabs.filter((t) => t.value !== 'changes' || mayEdit.value))
const tab = computed(() => tabs.value.find((t) => t.value === route.query.tab)?.value ?? 'specimen')
const words = computed(() => taste.words || metadata.value?.names.sampleText || `${f.value?.name} ${face.value?.style}`)
const beside = computed(() => {
  const all = styleOrder(f.value?.faces ?? [])
  const at = all.findIndex((o) => o.id === props.faceId)
  return { before: all[at - 1], after: all[at + 1] }
})
const to = (id: number) => ({ path: `/families/${props.id}/faces/${id}`, query: route.query })
</script>

<template>
  <div class="page">
    <Trouble v-if="error" :error="error" />
    <template v-else-if="f && face && metadata && file">
      <div class="head">
        <div>
          <p class="soft small crumb">
            <RouterLink to="/families">Catalog</RouterLink> /
            <RouterLink :to="`/families/${f.id}`">{{ f.name }}</RouterLink>
          </p>
          <h1>{{ f.name }} {{ face.style }}</h1>
        </div>
        <span class="row small">
          <RouterLink v-if="beside.before" :to="to(beside.before.id)">← {{ beside.before.style }}</RouterLink>
          <RouterLink v-if="beside.after" :to="to(beside.after.id)">{{ beside.after.style }} →</RouterLink>
        </span>
      </div>
      <p class="row small">
        <VerdictTag :state="face.verdict" />
        <span class="soft"
          >weight {{ metadata.style.weight }}, width {{ metadata.style.widthPercent }} %, {{ metadata.style.slope
          }}<template v-if="metadata.axes.length">, variable</template></span
        >
        <span class="permission" :data-level="metadata.embedding.level">{{ face.permission }}</span>
      </p>
      <ul v-if="metadata.problems.length" class="problems small">
        <li v-for="p in metadata.problems" :key="p.code">{{ p.message }}</li>
      </ul>
      <PageTabs :tabs="tabs" :open="tab" />
      <section :key="`${face.id} ${tab}`" class="tab" :data-tab="tab">
        <template v-if="tab === 'specimen'">
          <SampleControls />
          <FaceLook :face="face" :file="file" :words="words" />
        </template>
        <GlyphMap v-else-if="tab === 'characters'" :file="file" :place="metadata.index" />
        <FaceCoverage v-else-if="tab === 'languages'" :metadata="metadata" />
        <FaceFeatures v-else-if="tab === 'features'" :metadata="metadata" :file="file" :words="words" />
        <FaceHistory v-else-if="tab === 'history'" :face="face" :family="f.name" />
        <FaceCode v-else-if="tab === 'code'" :face="face" :family="f.name" :file="file" />
        <FaceFormats
          v-else-if="tab === 'formats'"
          :formats="face.formats"
          :file="file"
          :place="metadata.index"
          :base="base"
          :may-have="mayEdit"
        />
        <FaceVersions v-else-if="tab === 'files'" :face="face" :base="base" :may-have="mayEdit" />
        <FaceReshape v-else-if="tab === 'changes'" :file-id="file.id" :metadata="metadata" :family-id="f.id" />
        <FaceFallback v-else-if="tab === 'fallback'" :file-id="file.id" :metadata="metadata" />
        <FaceDetails v-else :metadata="metadata" />
      </section>
    </template>
    <p v-else-if="f" class="sheet">
      {{ f.name }} has no face with the number {{ faceId }}.
      <RouterLink :to="`/families/${f.id}`">Show the family</RouterLink>.
    </p>
    <p v-else class="soft">Loading …</p>
  </div>
</template>

<style scoped>
.crumb {
  margin: 0 0 0.2rem;
}
.problems {
  color: var(--caution);
  margin: 0.2rem 0;
  padding-left: 1.2rem;
}
.permission[data-level='restricted'],
.permission[data-level='preview-print'] {
  color: var(--bad);
  font-weight: 600;
}
</style>
