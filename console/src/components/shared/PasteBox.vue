<script setup lang="ts">
import { ref } from 'vue'
import type { Schemas } from '../../api/client'
import { copy } from '../../composables/copy'

/** A text to put into the platform by hand. */
const props = defineProps<{ paste: Schemas['Paste'] }>()
const copied = ref(false)
async function take() {
  await copy(props.paste.text)
  copied.value = true
  setTimeout(() => (copied.value = false), 1600)
}
</script>

<template>
  <section class="box">
    <div class="row split small">
      <span
        ><strong>{{ paste.name }}</strong
        >: put it {{ paste.where }}</span
      ><button type="button" :aria-label="`Copy ${paste.name}`" @click="take">{{ copied ? 'Copied' : 'Copy' }}</button>
    </div>
    <pre tabindex="0">{{ paste.text }}</pre>
  </section>
</template>

<style scoped>
.box {
  margin: 0.6rem 0;
}
.split {
  justify-content: space-between;
}
pre {
  margin: 0.3rem 0 0;
  max-height: 16rem;
  overflow: auto;
  background: var(--sheet);
  border: 1px solid var(--rule);
  padding: 0.6rem 0.8rem;
  font:
    0.82rem/1.45 ui-monospace,
    'Liberation Mono',
    monospace;
  white-space: pre-wrap;
  overflow-wrap: anywhere;
}
button {
  font: inherit;
  color: var(--sea);
  background: none;
  border: 0;
  cursor: pointer;
}
button:hover {
  text-decoration: underline;
}
</style>
