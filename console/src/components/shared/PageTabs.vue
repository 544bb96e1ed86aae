<script setup lang="ts">
/** The parts of a page, of which one is open; which one stands in the page's URL. */
defineProps<{ tabs: readonly { value: string; label: string }[]; open: string }>()
</script>

<template>
  <nav class="tabs" aria-label="Parts of this page">
    <RouterLink
      v-for="t in tabs"
      :key="t.value"
      :to="{ query: { tab: t.value } }"
      replace
      :aria-current="t.value === open ? 'page' : undefined"
      >{{ t.label }}</RouterLink
    >
  </nav>
</template>

<style scoped>
.tabs {
  display: flex;
  flex-wrap: wrap;
  gap: 0 1.2rem;
  border-bottom: 1px solid var(--rule);
  margin: 0.6rem 0 1rem;
}
.tabs a {
  color: var(--ink-soft);
  text-decoration: none;
  padding: 0.35rem 0;
  border-bottom: 2px solid transparent;
  margin-bottom: -1px;
}
.tabs a:hover {
  color: var(--ink);
}
.tabs a[aria-current] {
  color: var(--ink);
  border-color: var(--rust);
}
</style>
