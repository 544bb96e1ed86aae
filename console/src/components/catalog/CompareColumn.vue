<script setup lang="ts">
import { computed } from 'vue'
import type { Schemas } from '../../api/client'
import { useTaste } from '../../composables/taste'
import FaceSample from '../face/FaceSample.vue'

/** A family in a column, in the face nearest to a weight. */
const props = defineProps<{ family: Schemas['Family']; weight: number; italic: boolean }>()
const taste = useTaste()
const sizes = [30, 20, 14]
const alphabet = 'ABCDEFGHIJKLMNOPQRSTUVWXYZ abcdefghijklmnopqrstuvwxyz 0123456789 &@?!€'
const span = (face: Schemas['Face']) => {
  const axis = face.metadata.axes.find((a) => a.tag === 'wght')
  return axis
    ? { low: axis.min, high: axis.max }
    : { low: face.metadata.style.weight, high: face.metadata.style.weight }
}
const off = (face: Schemas['Face']) =>
  Math.max(span(face).low - props.weight, props.weight - span(face).high, 0) +
  ((face.metadata.style.slope === 'upright') === props.italic ? 10_000 : 0)
const face = computed(() => [...props.family.faces].sort((a, b) => off(a) - off(b))[0]!)
const at = computed(() => Math.min(Math.max(props.weight, span(face.value).low), span(face.value).high))
const shown = computed(() => {
  const file = face.value.files.find((x) => x.current) ?? face.value.files[0]!
  const { low, high } = span(face.value)
  return {
    fileId: file.id,
    format: file.format,
    place: face.value.metadata.index,
    variations: low < high ? `"wght" ${at.value}` : undefined,
    wrap: true,
  }
})
const words = computed(
  () => taste.words || props.family.faces.map((x) => x.metadata.names.sampleText).find(Boolean) || props.family.name,
)
const measures = computed(() => {
  const { metrics: m, unitsPerEm } = face.value.metadata
  const em = (n: number) => Math.round((n * 1000) / unitsPerEm)
  const line = em(m.ascent - m.descent + m.lineGap)
  return `x-height ${em(m.xHeight)}, capitals ${em(m.capHeight)}, line ${line} thousandths of an em`
})
</script>

<template>
  <section class="sheet">
    <h2>
      <RouterLink :to="`/families/${family.id}`">{{ family.name }}</RouterLink>
    </h2>
    <p class="soft small">{{ face.style }}, weight {{ at }}; {{ family.client.name }}</p>
    <FaceSample v-bind="shown" :size="taste.size" :text="words" />
    <FaceSample v-for="s in sizes" :key="s" v-bind="shown" :size="s" :text="words" />
    <FaceSample v-bind="shown" :size="24" :text="alphabet" />
    <p class="soft small">{{ measures }}</p>
  </section>
</template>

<style scoped>
h2 {
  margin: 0;
}
</style>
