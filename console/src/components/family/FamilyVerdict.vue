<script setup lang="ts">
import { computed, ref } from 'vue'
import type { Schemas } from '../../api/client'
import { verdictsByUse } from '../../api/queries'
import { label, uses, verdicts } from '../../composables/show'
import VerdictTag from '../shared/VerdictTag.vue'

/** Whether a family may be used by its client, by use, and why for the use that is chosen. */
const props = defineProps<{ family: number; verdict: Schemas['Verdict'] }>()
const { data: all } = verdictsByUse(computed(() => props.family))
const use = ref(props.verdict.use)
const shown = computed(
  () => (use.value !== props.verdict.use && all.value?.find((v) => v.use === use.value)) || props.verdict,
)
</script>

<template>
  <section class="sheet judged" :class="shown.state" aria-label="Verdict">
    <p class="row">
      <VerdictTag :state="shown.state" /><span>{{ label(uses, shown.use) }}, for {{ verdict.client.name }}</span>
    </p>
    <div v-if="all" class="row small uses" role="group" aria-label="Verdict by use">
      <button
        v-for="v in all"
        :key="v.use"
        type="button"
        :class="v.state"
        :aria-pressed="v.use === shown.use"
        :title="verdicts[v.state]"
        @click="use = v.use"
      >
        <span class="dot" aria-hidden="true" />{{ label(uses, v.use)
        }}<span class="unseen">: {{ verdicts[v.state] }}</span>
      </button>
    </div>
    <ul class="small">
      <li v-for="r in shown.reasons" :key="r.code + r.evidence">
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
.uses {
  gap: 0.3rem;
  margin-top: 0.5rem;
}
.uses button {
  font: inherit;
  min-height: 24px;
  padding: 0.05rem 0.6rem;
  border: 1px solid var(--rule);
  border-radius: 1rem;
  background: none;
  color: var(--ink);
  cursor: pointer;
  display: inline-flex;
  align-items: center;
  gap: 0.4rem;
}
.uses button[aria-pressed='true'] {
  border-color: var(--ink);
}
.dot {
  width: 0.6rem;
  height: 0.6rem;
  border-radius: 50%;
  background: var(--good);
}
.uses .review .dot {
  border-radius: 0;
  background: var(--caution);
}
.uses .blocked .dot {
  border-radius: 0;
  transform: rotate(45deg);
  background: var(--bad);
}
.judged.cleared {
  border-left-color: var(--good);
}
.judged.review {
  border-left-color: var(--caution);
}
.judged.blocked {
  border-left-color: var(--bad);
}
</style>
