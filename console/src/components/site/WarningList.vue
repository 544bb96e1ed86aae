<script setup lang="ts">
import type { Schemas } from '../../api/client'

defineProps<{ warnings: Schemas['SiteWarning'][] }>()
</script>

<template>
  <section v-if="warnings.length" aria-label="Warnings">
    <h2>Warnings</h2>
    <ul class="mind small">
      <li v-for="w in warnings" :key="w.code + w.about + w.message">{{ w.message }}</li>
    </ul>
  </section>
</template>

<style scoped>
.mind {
  list-style: none;
  margin: 0;
  padding: 0;
  display: grid;
  gap: 0.4rem;
}
.mind li {
  border-left: 3px solid var(--caution);
  padding: 0.3rem 0.8rem;
  background: var(--sheet);
}
</style>
