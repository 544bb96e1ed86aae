<script lang="ts">
const fonts = new Map<string, FontFace>()

/** Loads a font once for the page, whatever shows it. */
function fontOf(family: string, address: string) {
  let face = fonts.get(family)
  if (!face) {
    face = new FontFace(family, `url(${address})`)
    fonts.set(family, face)
    document.fonts.add(face)
  }
  return face.load()
}
</script>

<script setup lang="ts">
import { computed, onBeforeUnmount, onMounted, ref, useTemplateRef, watch } from 'vue'
import { base } from '../api/client'
import { usePerson } from '../state/person'
import { still } from '../state/still'
import { useTaste } from '../state/taste'

/** Text set in a file of the catalog, fetched once it comes into view. */
const props = defineProps<{ fileId: number; container: string; place: number; size: number; text: string; variations?: string; features?: string; wrap?: boolean }>()
const line = useTemplateRef<HTMLElement>('line')
const state = ref<'waiting' | 'ready' | 'failed'>('waiting')
let watching: IntersectionObserver | undefined
let gone = false

const person = usePerson()
const taste = useTaste()
// Who may see a font but not have it sees a picture.
const pictured = computed(() => person.value?.role === 'viewer')
const picture = computed(() => `${base}/files/${props.fileId}/specimen?${new URLSearchParams({ place: String(props.place), size: String(props.size), dark: String(taste.dark !== taste.reversed), text: props.text.slice(0, 200) })}`)
const family = computed(() => `crate-file-${props.fileId}-${props.place}`)
// A browser takes no face out of a collection and reads no EOT; the service does.
const foreign = computed(() => props.container === 'ttc' || props.container === 'eot' || props.place > 0)
const address = computed(() => `${base}/files/${props.fileId}/content${foreign.value ? `?container=woff2&place=${props.place}` : ''}`)

async function load() {
  if (!person.value || pictured.value) return
  state.value = 'waiting'
  await still()
  if (gone) return
  try {
    await fontOf(family.value, address.value)
    state.value = 'ready'
  } catch {
    state.value = 'failed'
  }
}

onMounted(() => {
  watching = new IntersectionObserver((seen) => {
    if (seen.some((s) => s.isIntersecting)) {
      watching?.disconnect()
      void load()
    }
  }, { rootMargin: '1200px' })
  if (line.value) watching.observe(line.value)
})
watch([family, pictured], load)
watch(person, (now, before) => now && !before && load())
onBeforeUnmount(() => {
  gone = true
  watching?.disconnect()
})
</script>

<template>
  <div v-if="pictured && state !== 'failed'" class="picture" :class="{ reversed: taste.reversed }" :data-state="state"><img :src="picture" :alt="text" loading="lazy" :style="{ margin: `${-16 - size / 6}px`, marginRight: 0 }" @load="state = 'ready'" @error="state = 'failed'"></div>
  <p v-else-if="state === 'failed'" class="soft small">The browser does not accept this font file.</p>
  <p
    v-else ref="line" class="set" :class="{ reversed: taste.reversed, wrap }" :data-state="state"
    :style="{ fontFamily: `'${family}'`, fontSize: `${size}px`, fontVariationSettings: variations, fontFeatureSettings: features, visibility: state === 'ready' ? 'visible' : 'hidden' }"
  >{{ text }}</p>
</template>

<style scoped>
.picture { overflow: hidden; padding: 0.05em 0; }
.picture img { display: block; max-width: none; }
.set { margin: 0; line-height: 1.25; overflow: hidden; text-overflow: ellipsis; white-space: nowrap; font-synthesis: none; padding: 0.05em 0; }
.wrap { white-space: normal; overflow-wrap: anywhere; }
.reversed { background: #12191c; color: #ece7da; padding: 0.2em 0.4em; }
:global(html.dark) .reversed { background: #fffdf8; color: #1c2a30; }
</style>
