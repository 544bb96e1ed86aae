<script setup lang="ts">
import { computed, onBeforeUnmount, onMounted, ref, useTemplateRef, watch } from 'vue'
import { base } from '../../api/client'
import { fontName, loadFont } from '../../composables/fontfile'
import { usePerson } from '../../composables/person'
import { still } from '../../composables/still'
import { useTaste } from '../../composables/taste'

/** Text set in a file of the catalog, fetched once it comes into view. */
const props = defineProps<{
  fileId: number
  format: string
  place: number
  size: number
  text: string
  variations?: string
  features?: string
  wrap?: boolean
}>()
const line = useTemplateRef<HTMLElement>('line')
const state = ref<'waiting' | 'ready' | 'failed'>('waiting')
let watching: IntersectionObserver | undefined
let gone = false

const person = usePerson()
const taste = useTaste()
// Who may see a font but not have it sees a picture.
const pictured = computed(() => ['viewer', 'guest'].includes(person.value?.role ?? ''))
/** What a stylesheet says of axes and features, as the service reads it: wght=700, -kern. */
const said = (settings: string | undefined, word: (tag: string, value: string) => string) =>
  (settings ?? '')
    .split(',')
    .map((s) => s.trim().split(/\s+/))
    .filter((s) => s.length === 2)
    .map(([tag, value]) => word(tag!.slice(1, -1), value!))
    .join(',')
/** The margin that pictures have around the text, and its room where it is broken into lines, in pixels. */
const margin = computed(() => 16 + props.size / 6)
const room = ref(0)
const wanted = computed(() => {
  const q: Record<string, string> = {
    place: String(props.place),
    size: String(props.size),
    dark: String(taste.dark !== taste.reversed),
    text: props.text.slice(0, props.wrap ? 1000 : 200),
    at: said(props.variations, (tag, value) => `${tag}=${value}`),
    features: said(props.features, (tag, value) => (value === '0' ? `-${tag}` : tag)),
  }
  if (props.wrap && room.value)
    q.width = String(Math.round(Math.max(100, Math.min(room.value + 2 * margin.value, 4000))))
  return `${base}/files/${props.fileId}/specimen?${new URLSearchParams(q)}`
})
// A slider passes many places; a picture is asked for where it rests.
const picture = ref('')
watch(
  wanted,
  (now, _, again) => {
    const rest = setTimeout(
      () => {
        picture.value = now
      },
      picture.value ? 150 : 0,
    )
    again(() => clearTimeout(rest))
  },
  { immediate: true },
)
const family = computed(() => fontName(props.fileId, props.place))

async function load() {
  if (!person.value || pictured.value) return
  state.value = 'waiting'
  await still()
  if (gone) return
  try {
    await loadFont(props.fileId, props.format, props.place)
    state.value = 'ready'
  } catch {
    state.value = 'failed'
  }
}

onMounted(() => {
  watching = new IntersectionObserver(
    (seen) => {
      if (seen.some((s) => s.isIntersecting)) {
        watching?.disconnect()
        void load()
      }
    },
    { rootMargin: '1200px' },
  )
  if (line.value) watching.observe(line.value)
  room.value = line.value?.clientWidth ?? 0
})
watch([family, pictured], load)
watch(person, (now, before) => now && !before && load())
onBeforeUnmount(() => {
  gone = true
  watching?.disconnect()
})
</script>

<template>
  <div
    v-if="pictured && state !== 'failed'"
    ref="line"
    class="picture"
    :class="{ reversed: taste.reversed }"
    :data-state="state"
  >
    <img
      v-if="picture"
      :src="picture"
      :alt="text"
      loading="lazy"
      :style="{ margin: `${-margin}px`, marginRight: 0 }"
      @load="state = picture === wanted ? 'ready' : 'waiting'"
      @error="state = 'failed'"
    />
  </div>
  <p v-else-if="state === 'failed'" class="soft small">The browser does not accept this font file.</p>
  <p
    v-else
    ref="line"
    class="set"
    :class="{ reversed: taste.reversed, wrap }"
    :data-state="state"
    :style="{
      fontFamily: `'${family}'`,
      fontSize: `${size}px`,
      fontVariationSettings: variations,
      fontFeatureSettings: features,
      visibility: state === 'ready' ? 'visible' : 'hidden',
    }"
  >
    {{ text }}
  </p>
</template>

<style scoped>
.picture {
  overflow: hidden;
  padding: 0.05em 0;
}
.picture img {
  display: block;
  max-width: none;
  mix-blend-mode: darken;
}
:global(html.dark .picture:not(.reversed) img) {
  mix-blend-mode: lighten;
}
.picture.reversed img {
  mix-blend-mode: normal;
}
.set {
  margin: 0;
  line-height: 1.25;
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
  font-synthesis: none;
  padding: 0.05em 0;
}
.wrap {
  white-space: normal;
  overflow-wrap: anywhere;
}
.reversed {
  background: #12191c;
  color: #ece7da;
  padding: 0.2em 0.4em;
}
:global(html.dark .set.reversed) {
  background: #fffdf8;
  color: #1c2a30;
}
</style>
