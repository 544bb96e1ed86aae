<script setup lang="ts">
import { verdicts } from '../../composables/show'

/** A verdict in a word; `signed` where a person signed it off. */
defineProps<{ state: string; signed?: boolean }>()
</script>

<template>
  <span class="verdict" :class="state"
    >{{ verdicts[state] ?? state }}<template v-if="signed">, signed off</template></span
  >
</template>

<style scoped>
.verdict {
  display: inline-block;
  font-size: 0.82rem;
  font-weight: 600;
  padding: 0.05rem 0.5rem;
  border: 1.5px solid currentcolor;
  border-radius: 2px;
  white-space: nowrap;
}
.cleared {
  color: var(--good);
}
.review {
  color: var(--caution);
  border-style: dashed;
}
.blocked {
  color: var(--bad);
  border-width: 2px;
  border-style: double;
}
</style>
