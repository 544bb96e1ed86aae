<script setup lang="ts">
import type { Schemas } from '../../api/client'
import VerdictTag from '../shared/VerdictTag.vue'

/** Whether a family may go on its client's web sites, and why. */
defineProps<{ verdict: Schemas['Verdict'] }>()
</script>

<template>
  <section class="sheet judged" :class="verdict.state" aria-label="Verdict">
    <p class="row">
      <VerdictTag :state="verdict.state" /><span>for web sites of {{ verdict.client.name }}</span>
    </p>
    <ul class="small">
      <li v-for="r in verdict.reasons" :key="r.code + r.evidence">
        <span>{{ r.message }}</span>
        <RouterLink v-if="r.license" :to="{ path: '/licenses', query: { show: r.license } }">{{
          r.evidence
        }}</RouterLink><span v-else class="soft">{{ r.evidence }}</span>
      </li>
    </ul>
  </section>
</template>

<style scoped>
.judged {
  border-left-width: 4px;
  margin-bottom: 0.9rem;
  padding-block: 0.7rem;
}
.judged p,
.judged ul {
  margin: 0;
}
.judged ul {
  padding-left: 1.1rem;
  margin-top: 0.4rem;
}
.cleared {
  border-left-color: var(--good);
}
.review {
  border-left-color: var(--caution);
}
.blocked {
  border-left-color: var(--bad);
}
</style>
