<script setup lang="ts">
import { ElButton } from 'element-plus'
import { computed } from 'vue'
import type { Schemas } from '../../api/client'
import { when } from '../../composables/show'
import TimeAgo from '../shared/TimeAgo.vue'

/** One finding of an inspection: what is wrong, where, and what to do. */
const props = defineProps<{ finding: Schemas['SiteFinding']; pin?: number; mayEdit: boolean; page?: boolean }>()
const emit = defineEmits<{ accept: [Schemas['SiteFinding']]; reopen: [number]; point: [] }>()
const words = { error: 'Error', warning: 'Warning', note: 'Note' }
const state = computed(() => {
  const f = props.finding
  if (f.state === 'gone') return f.goneAt ? `gone since ${when(f.goneAt)}` : 'gone'
  if (f.state === 'accepted') return 'accepted'
  return f.fresh ? 'new' : `since ${when(f.since)}`
})
/** A fix that is code is shown as code. */
const isCode = computed(() => /[{}<]|^\s*[a-z-]+\s*:/.test(props.finding.fix))
</script>

<template>
  <article class="finding" :class="[finding.severity, finding.state]" :data-code="finding.code">
    <div class="row top">
      <button
        v-if="pin"
        type="button"
        class="pin"
        :aria-label="`Show finding ${pin} in the picture`"
        @click="emit('point')"
      >
        {{ pin }}
      </button>
      <strong class="label">{{ words[finding.severity] }}</strong><span class="soft small"
        >{{ finding.title }}; {{ state }}</span
      >
    </div>
    <p>{{ finding.message }}</p>
    <p v-if="page && finding.page" class="soft small where">{{ finding.page }}</p>
    <p v-if="finding.selector" class="small where">
      at <code>{{ finding.selector }}</code>
    </p>
    <p v-if="finding.url" class="soft small where">
      {{ finding.url }}<template v-if="finding.line">, line {{ finding.line }}</template>
    </p>
    <p v-if="finding.evidence" class="soft small where">Seen: {{ finding.evidence }}</p>
    <pre v-if="isCode">{{ finding.fix }}</pre>
    <p v-else class="fix">{{ finding.fix }}</p>
    <p v-if="finding.acceptance && finding.state === 'accepted'" class="small taken">
      Accepted by {{ finding.acceptance.by }}, <TimeAgo :at="finding.acceptance.at" /><template
        v-if="finding.acceptance.until"
        >, until {{ finding.acceptance.until }}</template
      >: “{{ finding.acceptance.reason }}”
    </p>
    <div v-if="mayEdit && finding.id" class="row">
      <ElButton
        v-if="finding.state === 'open'"
        size="small"
        :aria-label="`Accept: ${finding.message}`"
        @click="emit('accept', finding)"
        >Accept</ElButton
      >
      <ElButton
        v-if="finding.state === 'accepted'"
        size="small"
        :aria-label="`Reopen: ${finding.message}`"
        @click="emit('reopen', finding.id)"
        >Reopen</ElButton
      >
    </div>
  </article>
</template>

<style scoped>
.finding {
  border-left: 4px solid var(--sea);
  background: var(--sheet);
  padding: 0.6rem 0.9rem;
  margin-bottom: 0.7rem;
}
.error {
  border-color: var(--bad);
}
.warning {
  border-color: var(--caution);
}
.error .label {
  color: var(--bad);
}
.warning .label {
  color: var(--caution);
}
.note .label {
  color: var(--sea);
}
.accepted,
.gone {
  border-left-style: dashed;
}
.top {
  gap: 0.5rem;
}
p {
  margin: 0.25rem 0;
}
.where {
  overflow-wrap: anywhere;
}
pre {
  white-space: pre-wrap;
  overflow-wrap: anywhere;
  margin: 0.4rem 0;
  padding: 0.4rem 0.6rem;
  background: var(--page);
  border: 1px solid var(--rule);
  font-size: 0.85rem;
}
.fix::before {
  content: '→ ';
}
.taken {
  color: var(--good);
}
.pin {
  min-width: 1.6rem;
  height: 1.6rem;
  border: 0;
  border-radius: 0.8rem;
  background: var(--ink);
  color: var(--sheet);
  font-weight: 600;
  cursor: pointer;
}
</style>
