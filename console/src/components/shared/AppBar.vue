<script setup lang="ts">
import { useQueryClient } from '@tanstack/vue-query'
import { ElButton } from 'element-plus'
import { useRoute } from 'vue-router'
import { api, type Schemas } from '../../api/client'
import { change } from '../../api/queries'
import { useTaste } from '../../state/taste'

defineProps<{ person: Schemas['Person'] }>()
const taste = useTaste()
const route = useRoute()
const queries = useQueryClient()
const pages = [
  { to: '/due', name: 'Due' },
  { to: '/families', name: 'Catalog' },
  { to: '/imports', name: 'Import' },
  { to: '/shortlists', name: 'Shortlists' },
  { to: '/licenses', name: 'Licenses' },
  { to: '/sites', name: 'Sites' },
  { to: '/builders', name: 'Builders' },
  { to: '/activity', name: 'Activity' },
]
const signOut = change(
  () => api.DELETE('/session'),
  [],
  () => {
    queries.clear()
    location.assign('/')
  },
)
</script>

<template>
  <a class="skip" href="#main">Skip to content</a>
  <header class="bar">
    <RouterLink to="/due" class="brand"><img src="/mark.svg" alt="" width="26" height="26" />Spare Crate</RouterLink>
    <nav aria-label="Pages">
      <RouterLink v-for="p in pages" :key="p.to" :to="p.to" :class="{ here: route.path.startsWith(p.to) }">{{
        p.name
      }}</RouterLink>
    </nav>
    <div class="me">
      <RouterLink to="/access">{{ person.name }}</RouterLink>
      <ElButton text size="small" :aria-pressed="taste.dark" @click="taste.dark = !taste.dark">{{
        taste.dark ? 'Light' : 'Dark'
      }}</ElButton>
      <ElButton text size="small" @click="signOut.mutate(undefined)">Sign out</ElButton>
    </div>
  </header>
</template>

<style scoped>
.bar {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 0.25rem 1.75rem;
  padding: 0.55rem 1.25rem;
  background: var(--sheet);
  border-bottom: 3px double var(--rule);
}
.brand {
  display: flex;
  align-items: center;
  gap: 0.5rem;
  font-weight: 700;
  color: var(--ink);
  text-decoration: none;
  white-space: nowrap;
}
nav {
  display: flex;
  flex-wrap: wrap;
  gap: 0.15rem 1.2rem;
  flex: 1;
}
nav a {
  color: var(--ink-soft);
  text-decoration: none;
  padding: 0.3rem 0;
  border-bottom: 2px solid transparent;
}
nav a:hover {
  color: var(--ink);
}
nav a.here {
  color: var(--ink);
  border-color: var(--rust);
}
.me {
  display: flex;
  align-items: center;
  gap: 0.2rem;
  white-space: nowrap;
}
.me a {
  color: var(--ink);
}
@media (max-width: 46rem) {
  .bar {
    justify-content: space-between;
  }
  nav {
    order: 3;
    flex: 1 1 100%;
    justify-content: space-between;
    gap: 0.15rem 0.6rem;
  }
}
.skip {
  position: absolute;
  left: -100rem;
}
.skip:focus {
  left: 1rem;
  top: 0.5rem;
  background: var(--sheet);
  padding: 0.3rem 0.6rem;
  z-index: 10;
}
</style>
