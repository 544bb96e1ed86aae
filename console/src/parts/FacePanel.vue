<script setup lang="ts">
import { computed, ref } from 'vue'
import type { Schemas } from '../api/client'
import { me } from '../api/queries'
import { bytes, when } from '../state/show'
import { useTaste } from '../state/taste'
import CopyLine from './CopyLine.vue'
import FaceContainers from './FaceContainers.vue'
import FaceCoverage from './FaceCoverage.vue'
import FaceDetails from './FaceDetails.vue'
import FaceFallback from './FaceFallback.vue'
import FaceReshape from './FaceReshape.vue'
import FaceSample from './FaceSample.vue'

const props = defineProps<{ face: Schemas['Face']; family: string; base: string }>()
const taste = useTaste()
const { data: person } = me()
const mayEdit = computed(() => person.value?.role !== 'viewer')
const fallbackOpen = ref(false)
const facts = computed(() => props.face.facts)
const current = computed(() => props.face.files.find((f) => f.current) ?? props.face.files[0])
const ready = computed(() => props.face.containers.filter((m) => m.bytes !== undefined).length)
const busy = computed(() => props.face.containers.some((m) => m.state === 'failed'))
const style = computed(() => (facts.value.style.slope === 'upright' ? 'normal' : facts.value.style.slope))
const css = computed(() => `font-family: "${props.family}"; font-weight: ${facts.value.style.weight}; font-style: ${style.value};`)
const words = computed(() => taste.words || facts.value.names.sampleText || `${props.family} ${props.face.style}`)
</script>

<template>
  <section class="sheet face">
    <header class="row">
      <h3>{{ face.style }}</h3>
      <span class="soft small">weight {{ facts.style.weight }}, width {{ facts.style.widthPercent }} %, {{ facts.style.slope }}; {{ facts.coverage.codepoints }} characters<template v-if="facts.axes.length">; variable</template></span>
    </header>
    <FaceSample v-if="current" :file-id="current.id" :container="current.container" :place="facts.index" :size="taste.size" :text="words" />
    <p class="small permission" :data-level="facts.embedding.level">{{ face.permission }}</p>
    <ul v-if="facts.problems.length" class="problems small"><li v-for="p in facts.problems" :key="p.code">{{ p.message }}</li></ul>
    <details>
      <summary>Names to copy</summary>
      <CopyLine name="Family" :value="family" />
      <CopyLine name="Line of CSS" :value="css" />
      <CopyLine name="Full name" :value="facts.names.full" />
      <CopyLine name="PostScript name" :value="facts.names.postscript" />
      <CopyLine name="Weight" :value="String(facts.style.weight)" />
      <CopyLine v-if="current" name="File name" :value="current.name" />
    </details>
    <details class="covers">
      <summary>What it can write ({{ facts.coverage.languages.length }} languages)</summary>
      <FaceCoverage :facts="facts" />
    </details>
    <details class="containers" :open="busy">
      <summary>Containers ({{ ready }} ready)</summary>
      <FaceContainers v-if="current" :containers="face.containers" :file="current" :place="facts.index" :base="base" :may-have="mayEdit" />
    </details>
    <details v-if="mayEdit && current" class="reshape">
      <summary>Reshape: fewer characters, a static style, other outlines, another name</summary>
      <FaceReshape :file-id="current.id" :facts="facts" />
    </details>
    <details class="fallback" @toggle="fallbackOpen = ($event.target as HTMLDetailsElement).open">
      <summary>Local font while it loads</summary>
      <FaceFallback v-if="current && fallbackOpen" :file-id="current.id" :facts="facts" />
    </details>
    <details>
      <summary>What the font says of itself</summary>
      <FaceDetails :facts="facts" />
    </details>
    <details>
      <summary>Files ({{ face.files.length }})</summary>
      <ul class="list small">
        <li v-for="f in face.files" :key="f.id" class="row file">
          <a v-if="mayEdit" :href="`${base}/files/${f.id}/content`" :download="f.name">{{ f.name }}</a><span v-else>{{ f.name }}</span>
          <span class="soft">{{ f.container.toUpperCase() }}, {{ bytes(f.bytes) }}, {{ f.version }}, {{ f.addedBy }}, {{ when(f.addedAt) }}</span>
          <strong v-if="f.current">in packs</strong>
        </li>
      </ul>
    </details>
  </section>
</template>

<style scoped>
.face { margin-bottom: 0.9rem; }
h3 { margin: 0; font-size: 1rem; }
.permission { margin: 0.3rem 0; }
.permission[data-level='restricted'], .permission[data-level='preview-print'] { color: var(--barred); font-weight: 600; }
.problems { color: var(--query); margin: 0.2rem 0; padding-left: 1.2rem; }
summary { cursor: pointer; color: var(--sea); padding: 0.25rem 0; font-size: 0.92rem; }
.file { padding: 0.3rem 0; }
</style>
