<script setup lang="ts">
import { computed } from 'vue'
import type { Schemas } from '../../api/client'
import CopyLine from '../shared/CopyLine.vue'

/** Names of a face, and the lines of code that use it, each with a button that copies it. */
const props = defineProps<{ face: Schemas['Face']; family: string; file: Schemas['File'] }>()
const metadata = computed(() => props.face.metadata)
const slope = computed(() => (metadata.value.style.slope === 'upright' ? 'normal' : metadata.value.style.slope))
const lines = computed(() => {
  const { names, style } = metadata.value
  const italic = slope.value === 'normal' ? '' : ', FontStyle.Italic'
  return [
    { name: 'Family', value: props.family },
    { name: 'CSS', value: `font-family: "${props.family}"; font-weight: ${style.weight}; font-style: ${slope.value};` },
    { name: 'Full name', value: names.full },
    { name: 'PostScript name', value: names.postscript },
    { name: 'Weight', value: String(style.weight) },
    { name: 'File name', value: props.file.name },
    { name: 'App code by name', value: `UIFont(name: "${names.postscript}", size: 17)` },
    { name: 'App property list', value: `<string>${props.file.name}</string>` },
    {
      name: 'App code by resource',
      value: `FontFamily(Font(R.font.${props.face.resource}, FontWeight.W${style.weight}${italic}))`,
    },
  ]
})
</script>

<template>
  <CopyLine v-for="l in lines" :key="l.name" :name="l.name" :value="l.value" />
</template>
