<script setup lang="ts">
import { ElDrawer, ElOption, ElSelect } from 'element-plus'
import { computed, ref, watch } from 'vue'
import { useRoute } from 'vue-router'
import { chapterOf, chapters, html } from '../../composables/help'

/** The chapter of the guide for the page that is open, and all the others to choose from. */
const open = defineModel<boolean>({ required: true })
const route = useRoute()
const title = ref(chapterOf(route.path).title)
watch([open, () => route.path], () => (title.value = chapterOf(route.path).title))
const chapter = computed(() => chapters.find((c) => c.title === title.value) ?? chapters[0]!)
const text = computed(() => html(chapter.value))
/** Links within the guide open their chapter here. */
function follow(e: MouseEvent) {
  const to = (e.target as HTMLElement).closest('a')?.getAttribute('href')
  if (!to?.startsWith('#')) return
  e.preventDefault()
  const slug = (t: string) =>
    t
      .toLowerCase()
      .replace(/[^a-z0-9 -]/g, '')
      .replace(/ /g, '-')
  title.value = chapters.find((c) => slug(c.title) === to.slice(1))?.title ?? title.value
}
</script>

<template>
  <ElDrawer v-model="open" title="Help" size="min(34rem, 100vw)" append-to-body class="help">
    <ElSelect v-model="title" filterable aria-label="Chapter of the guide" class="chapter">
      <ElOption v-for="c in chapters" :key="c.title" :value="c.title" :label="c.title">
        <span :style="{ paddingLeft: c.level > 2 ? '1rem' : 0 }">{{ c.title }}</span>
      </ElOption>
    </ElSelect>
    <!-- The guide is part of the console: nothing in it comes from people. -->
    <!-- eslint-disable-next-line vue/no-v-html -->
    <div class="guide-text" tabindex="0" role="document" :aria-label="title" @click="follow" v-html="text" />
  </ElDrawer>
</template>

<style scoped>
.chapter {
  width: 100%;
  margin-bottom: 0.8rem;
}
.guide-text {
  overflow-wrap: anywhere;
  line-height: 1.55;
}
.guide-text :deep(pre) {
  background: var(--page);
  padding: 0.6rem 0.8rem;
  overflow-x: auto;
  font-size: 0.85rem;
  white-space: pre-wrap;
}
.guide-text :deep(table) {
  border-collapse: collapse;
  width: 100%;
  font-size: 0.92rem;
}
.guide-text :deep(td),
.guide-text :deep(th) {
  text-align: left;
  vertical-align: top;
  border-bottom: 1px solid var(--rule);
  padding: 0.3rem 0.6rem 0.3rem 0;
}
.guide-text :deep(h2) {
  margin-top: 0;
}
</style>
