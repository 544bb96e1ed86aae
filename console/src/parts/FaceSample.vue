<script setup lang="ts">
import { onBeforeUnmount, onMounted, ref, useTemplateRef, watch } from 'vue'
import { base } from '../api/client'

/** Text set in a file of the catalog, fetched once it comes into view. */
const props = defineProps<{ fileId: number; size: number; text: string; slope?: string }>()
const line = useTemplateRef<HTMLElement>('line')
const state = ref<'waiting' | 'ready' | 'failed'>('waiting')
let watching: IntersectionObserver | undefined

const familyOf = (id: number) => `crate-file-${id}`

async function load() {
  const family = familyOf(props.fileId)
  state.value = 'waiting'
  try {
    let face = [...document.fonts].find((f) => f.family.replaceAll('"', '') === family)
    if (!face) {
      face = new FontFace(family, `url(${base}/files/${props.fileId}/content)`)
      document.fonts.add(face)
    }
    await face.load()
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
  }, { rootMargin: '400px' })
  if (line.value) watching.observe(line.value)
})
watch(() => props.fileId, load)
onBeforeUnmount(() => watching?.disconnect())
</script>

<template>
  <p v-if="state === 'failed'" class="soft small">The browser does not accept this font file.</p>
  <p
    v-else ref="line" class="set" :data-state="state"
    :style="{ fontFamily: `'${familyOf(fileId)}'`, fontSize: `${size}px`, visibility: state === 'ready' ? 'visible' : 'hidden' }"
  >{{ text }}</p>
</template>

<style scoped>
.set { margin: 0; line-height: 1.25; overflow: hidden; text-overflow: ellipsis; white-space: nowrap; font-synthesis: none; padding: 0.05em 0; }
</style>
