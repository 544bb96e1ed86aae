<script setup lang="ts">
import { ElButton } from 'element-plus'
import { ref } from 'vue'
import { dropped, picked } from '../../composables/uploads'

/** Takes files, folders and zips, dropped or chosen. */
const emit = defineEmits<{ files: [{ file: File; path: string }[]] }>()
const over = ref(false)
const folder = ref<HTMLInputElement>()

async function drop(e: DragEvent) {
  over.value = false
  if (e.dataTransfer) take(await dropped(e.dataTransfer.items))
}
function pick(e: Event) {
  const input = e.target as HTMLInputElement
  take(picked(input.files))
  input.value = ''
}
function take(files: { file: File; path: string }[]) {
  if (files.length) emit('files', files)
}
</script>

<template>
  <label class="zone" :class="{ over }" @dragover.prevent="over = true" @dragleave="over = false" @drop.prevent="drop">
    <span class="big">Drop fonts, folders or zips here</span>
    <span class="soft">or click to choose files: TTF, OTF, collections, WOFF, WOFF2, EOT, and documents</span>
    <input type="file" multiple class="hidden" aria-label="Files" @change="pick" />
  </label>
  <p class="under">
    <ElButton size="small" @click="folder?.click()">Choose a folder</ElButton
    ><input ref="folder" type="file" webkitdirectory class="hidden" tabindex="-1" aria-label="Folder" @change="pick" />
  </p>
</template>

<style scoped>
.zone {
  display: grid;
  place-items: center;
  align-content: center;
  text-align: center;
  gap: 0.3rem;
  min-height: 9rem;
  margin: 1rem 0 0.5rem;
  border: 2px dashed var(--el-border-color);
  background: var(--sheet);
  cursor: pointer;
}
.zone:hover,
.zone.over,
.zone:focus-within {
  border-color: var(--rust);
}
.big {
  font-size: 1.25rem;
  font-weight: 600;
}
.hidden {
  position: absolute;
  width: 1px;
  height: 1px;
  opacity: 0;
}
.under {
  margin: 0 0 1rem;
}
</style>
