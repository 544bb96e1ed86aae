<script setup lang="ts">
import { computed, ref } from 'vue'
import type { Schemas } from '../../api/client'
import { me } from '../../api/queries'
import { useTaste } from '../../state/taste'
import CopyLine from '../shared/CopyLine.vue'
import FaceFormats from './FaceFormats.vue'
import FaceCoverage from './FaceCoverage.vue'
import FaceDetails from './FaceDetails.vue'
import FaceFallback from './FaceFallback.vue'
import FaceLook from './FaceLook.vue'
import FaceReshape from './FaceReshape.vue'
import FaceSample from './FaceSample.vue'
import FaceVersions from './FaceVersions.vue'
import VerdictTag from '../shared/VerdictTag.vue'

const props = defineProps<{
  face: Schemas['Face']
  family: string
  familyId: number
  base: string
  verdict: string
}>()
const taste = useTaste()
const { data: person } = me()
const mayEdit = computed(() => person.value?.role !== 'viewer')
const fallbackOpen = ref(false)
const looking = ref(false)
/** A site still carries a file that packs no longer take, or somebody has to say which file counts. */
const stale = computed(() =>
  props.face.files.some((f) => f.unsettled || (!f.current && !f.beside && f.carriedBy.length > 0)),
)
/** How app code calls the face, by its PostScript name; files are named as they are. */
const appLines = computed(() => {
  const ps = metadata.value.names.postscript
  const file = current.value?.name ?? ''
  const slope = style.value === 'normal' ? '' : ', FontStyle.Italic'
  const weight = `FontWeight.W${metadata.value.style.weight}`
  return [
    { name: 'App code by name', value: `UIFont(name: "${ps}", size: 17)` },
    { name: 'App’s list of fonts', value: `<string>${file}</string>` },
    {
      name: 'App code by file',
      value: `FontFamily(Font(R.font.${props.face.resource}, ${weight}${slope}))`,
    },
  ]
})
const metadata = computed(() => props.face.metadata)
const current = computed(() => props.face.files.find((f) => f.current) ?? props.face.files[0])
const ready = computed(() => props.face.formats.filter((m) => m.bytes !== undefined).length)
const busy = computed(() => props.face.formats.some((m) => m.state === 'failed'))
const style = computed(() => (metadata.value.style.slope === 'upright' ? 'normal' : metadata.value.style.slope))
const css = computed(
  () => `font-family: "${props.family}"; font-weight: ${metadata.value.style.weight}; font-style: ${style.value};`,
)
const words = computed(() => taste.words || metadata.value.names.sampleText || `${props.family} ${props.face.style}`)
</script>

<template>
  <section class="sheet face">
    <header class="row">
      <h3>{{ face.style }}</h3>
      <VerdictTag v-if="face.verdict !== verdict" :state="face.verdict" />
      <span class="soft small"
        >weight {{ metadata.style.weight }}, width {{ metadata.style.widthPercent }} %, {{ metadata.style.slope }};
        {{ metadata.coverage.codepoints }} characters<template v-if="metadata.axes.length">; variable</template></span
      >
    </header>
    <FaceSample
      v-if="current"
      :file-id="current.id"
      :format="current.format"
      :place="metadata.index"
      :size="taste.size"
      :text="words"
    />
    <p class="small permission" :data-level="metadata.embedding.level">{{ face.permission }}</p>
    <ul v-if="metadata.problems.length" class="problems small">
      <li v-for="p in metadata.problems" :key="p.code">{{ p.message }}</li>
    </ul>
    <details class="look" @toggle="looking ||= ($event.target as HTMLDetailsElement).open">
      <summary>
        Look closer: sizes, features<template v-if="metadata.axes.length">, axes</template>, every character
      </summary>
      <FaceLook v-if="current && looking" :face="face" :file="current" :words="words" />
    </details>
    <details>
      <summary>Names to copy</summary>
      <CopyLine name="Family" :value="family" />
      <CopyLine name="Line of CSS" :value="css" />
      <CopyLine name="Full name" :value="metadata.names.full" />
      <CopyLine name="PostScript name" :value="metadata.names.postscript" />
      <CopyLine name="Weight" :value="String(metadata.style.weight)" />
      <CopyLine v-if="current" name="File name" :value="current.name" />
      <CopyLine v-for="l in appLines" :key="l.name" :name="l.name" :value="l.value" />
    </details>
    <details class="covers">
      <summary>What it can write ({{ metadata.coverage.languages.length }} languages)</summary>
      <FaceCoverage :metadata="metadata" />
    </details>
    <details class="formats" :open="busy">
      <summary>Formats ({{ ready }} ready)</summary>
      <FaceFormats
        v-if="current"
        :formats="face.formats"
        :file="current"
        :place="metadata.index"
        :base="base"
        :may-have="mayEdit"
      />
    </details>
    <details v-if="mayEdit && current" class="reshape">
      <summary>Reshape: fewer characters, a static style, other outlines, another name</summary>
      <FaceReshape :file-id="current.id" :metadata="metadata" :family-id="familyId" />
    </details>
    <details class="fallback" @toggle="fallbackOpen = ($event.target as HTMLDetailsElement).open">
      <summary>Local font while it loads</summary>
      <FaceFallback v-if="current && fallbackOpen" :file-id="current.id" :metadata="metadata" />
    </details>
    <details>
      <summary>What the font says of itself</summary>
      <FaceDetails :metadata="metadata" />
    </details>
    <details class="versions" :open="stale">
      <summary>Files ({{ face.files.length }})</summary>
      <FaceVersions :face="face" :base="base" :may-have="mayEdit" />
    </details>
  </section>
</template>

<style scoped>
.face {
  margin-bottom: 0.9rem;
}
h3 {
  margin: 0;
  font-size: 1rem;
}
.permission {
  margin: 0.3rem 0;
}
.permission[data-level='restricted'],
.permission[data-level='preview-print'] {
  color: var(--bad);
  font-weight: 600;
}
.problems {
  color: var(--caution);
  margin: 0.2rem 0;
  padding-left: 1.2rem;
}
summary {
  cursor: pointer;
  color: var(--sea);
  padding: 0.25rem 0;
  font-size: 0.92rem;
}
</style>
