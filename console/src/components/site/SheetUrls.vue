<script setup lang="ts">
import { computed, ref, toRef } from 'vue'
import type { Schemas } from '../../api/client'
import { liveStylesheets } from '../../api/queries'
import { copy } from '../../composables/copy'

/** The bare URLs of stylesheets that a site is served from: live ones of ours, and hosted ones. */
const props = defineProps<{ site: Schemas['Site'] }>()
const { data: live } = liveStylesheets(toRef(() => props.site.id))
const urls = computed(() => [
  ...(live.value ?? [])
    .filter((l) => l.path)
    .map((l) => ({ name: `Live stylesheet ${l.id}`, url: location.origin + l.path })),
  ...props.site.families.flatMap((f) => f.sheets.map((url) => ({ name: `Stylesheet of ${f.family.name}`, url }))),
])
const copied = ref('')
async function take(url: string) {
  await copy(url)
  copied.value = url
  setTimeout(() => (copied.value = ''), 1600)
}
</script>

<template>
  <ul v-if="urls.length" class="urls small" aria-label="Stylesheet URLs">
    <li v-for="u in urls" :key="u.url">
      <span class="soft">{{ u.name }}</span>
      <code :title="u.url">{{ u.url }}</code>
      <button type="button" :aria-label="`Copy the URL of ${u.name}`" @click="take(u.url)">
        {{ copied === u.url ? 'Copied' : 'Copy URL' }}
      </button>
    </li>
  </ul>
</template>

<style scoped>
.urls {
  list-style: none;
  margin: 0 0 0.7rem;
  padding: 0;
  display: grid;
  gap: 0.2rem;
}
.urls li {
  display: flex;
  gap: 0.7rem;
  align-items: baseline;
  min-width: 0;
}
code {
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
  min-width: 0;
}
button {
  font: inherit;
  color: var(--sea);
  background: none;
  border: 0;
  padding: 0;
  cursor: pointer;
  white-space: nowrap;
}
button:hover {
  text-decoration: underline;
}
</style>
