<script setup lang="ts">
import { ref } from 'vue'
import { copy } from '../../composables/copy'

const props = defineProps<{ name: string; value: string }>()
const copied = ref(false)

async function take() {
  await copy(props.value)
  copied.value = true
  setTimeout(() => (copied.value = false), 1600)
}
</script>

<template>
  <div class="line">
    <span class="name">{{ name }}</span>
    <code>{{ value }}</code>
    <button type="button" :aria-label="`Copy ${name}`" @click="take">{{ copied ? 'Copied' : 'Copy' }}</button>
  </div>
</template>

<style scoped>
.line {
  display: grid;
  grid-template-columns: 8.5rem 1fr auto;
  gap: 0.2rem 0.75rem;
  align-items: baseline;
  padding: 0.28rem 0;
  border-bottom: 1px solid var(--rule);
}
.name {
  color: var(--ink-soft);
  font-size: 0.86rem;
}
code {
  font:
    0.9em ui-monospace,
    'Liberation Mono',
    monospace;
  overflow-wrap: anywhere;
  white-space: pre-wrap;
}
button {
  font: inherit;
  font-size: 0.82rem;
  color: var(--sea);
  background: none;
  border: 0;
  padding: 0.1rem 0.2rem;
  cursor: pointer;
  min-width: 3.6rem;
  text-align: right;
}
button:hover {
  text-decoration: underline;
}
@media (max-width: 40rem) {
  .line {
    grid-template-columns: 1fr auto;
  }
  .name {
    grid-column: 1 / -1;
  }
}
</style>
