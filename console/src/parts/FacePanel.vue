<script setup lang="ts">
import { computed } from 'vue'
import type { Schemas } from '../api/client'
import { bytes, when } from '../state/show'
import { useTaste } from '../state/taste'
import CopyLine from './CopyLine.vue'
import FaceSample from './FaceSample.vue'

const props = defineProps<{ face: Schemas['Face']; family: string; base: string }>()
const taste = useTaste()
const facts = computed(() => props.face.facts)
const current = computed(() => props.face.files.find((f) => f.current) ?? props.face.files[0])
const style = computed(() => (facts.value.style.slope === 'upright' ? 'normal' : facts.value.style.slope))
const css = computed(() => `font-family: "${props.family}"; font-weight: ${facts.value.style.weight}; font-style: ${style.value};`)
const words = computed(() => taste.words || facts.value.names.sampleText || `${props.family} ${props.face.style}`)
</script>

<template>
  <section class="sheet face">
    <header class="row">
      <h3>{{ face.style }}</h3>
      <span class="soft small">weight {{ facts.style.weight }}, width {{ facts.style.widthPercent }} %, {{ facts.style.slope }}; {{ facts.glyphs }} glyphs, {{ facts.coverage.codepoints }} characters, {{ facts.outlines }}</span>
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
    <details>
      <summary>What the font says of itself</summary>
      <dl class="small">
        <template v-for="(value, key) in facts.names" :key="key"><template v-if="value"><dt>{{ key }}</dt><dd>{{ value }}</dd></template></template>
        <dt>features</dt><dd>{{ facts.features.join(', ') || 'none' }}</dd>
        <dt>lines</dt><dd>{{ facts.metrics.ascent }} up, {{ -facts.metrics.descent }} down, {{ facts.metrics.lineGap }} between; x-height {{ facts.metrics.xHeight }}, capitals {{ facts.metrics.capHeight }}; {{ facts.unitsPerEm }} units an em</dd>
      </dl>
    </details>
    <details>
      <summary>Files ({{ face.files.length }})</summary>
      <ul class="list small">
        <li v-for="f in face.files" :key="f.id" class="row file">
          <a :href="`${base}/files/${f.id}/content`" :download="f.name">{{ f.name }}</a>
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
dl { display: grid; grid-template-columns: 10rem 1fr; gap: 0.15rem 1rem; margin: 0.3rem 0; }
dt { color: var(--ink-soft); }
dd { margin: 0; overflow-wrap: anywhere; }
.file { padding: 0.3rem 0; }
@media (max-width: 40rem) { dl { grid-template-columns: 1fr; } dd { margin-bottom: 0.3rem; } }
</style>
