<script setup lang="ts">
import { computed } from 'vue'
import type { Schemas } from '../../api/client'
import { label, measures, month } from '../../composables/show'

/** A count against its limit. */
const props = defineProps<{ limit: Schemas['LicenseLimit'] }>()
const share = computed(() => (props.limit.cap ? props.limit.used / props.limit.cap : 1))
const state = computed(() =>
  share.value > 1 || (!props.limit.cap && props.limit.used)
    ? 'over'
    : share.value > 0.8 || props.limit.reached
      ? 'near'
      : 'within',
)
const said = computed(() => {
  const l = props.limit
  const of = `${l.used.toLocaleString()} of ${l.cap.toLocaleString()}`
  const at = `${of} ${label(measures, l.measure)}${l.when ? `, ${month(l.when)}` : ''}`
  return l.reached && l.used <= l.cap ? `${at}; passed in ${month(l.reached)} if it goes on like this` : at
})
</script>

<template>
  <div class="meter small" :class="state">
    <span class="bar" role="img" :aria-label="said"><span :style="{ width: `${Math.min(100, share * 100)}%` }" /></span
    ><span>{{ said }}</span>
  </div>
</template>

<style scoped>
.meter {
  display: flex;
  gap: 0.6rem;
  align-items: center;
}
.bar {
  flex: none;
  width: 8rem;
  height: 0.6rem;
  border: 1px solid var(--rule);
  background: var(--page);
}
.bar span {
  display: block;
  height: 100%;
  background: var(--good);
}
.near .bar span {
  background: repeating-linear-gradient(45deg, var(--caution) 0 5px, transparent 5px 7px), var(--caution);
}
.over .bar span {
  background: var(--bad);
}
.over {
  color: var(--bad);
  font-weight: 600;
}
</style>
