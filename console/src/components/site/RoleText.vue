<script setup lang="ts">
import { computed } from 'vue'
import type { Look } from '../../composables/roledraft'
import FaceSample from '../face/FaceSample.vue'

/** Text set as a role is: in the font that is chosen for it, or in its fallback fonts where that is not at hand. */
const props = defineProps<{ look?: Look; size: number; text: string; short?: boolean }>()
const plain = computed(() => ({
  fontFamily: [...(props.look?.fallbacks ?? []), 'sans-serif'].join(', '),
  fontWeight: props.look?.weight ?? 400,
  fontStyle: props.look?.slope ?? 'normal',
  fontSize: `${props.size}px`,
}))
</script>

<template>
  <FaceSample
    v-if="look?.file"
    :file-id="look.file"
    format=""
    :place="look.place"
    :size="size"
    :text="text"
    :variations="`'wght' ${look.weight}`"
    :wrap="!short"
  />
  <p v-else class="plain-text" :style="plain">{{ text }}</p>
</template>

<style scoped>
.plain-text {
  margin: 0;
  line-height: 1.25;
}
</style>
