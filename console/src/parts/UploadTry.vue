<script setup lang="ts">
import { ref } from 'vue'
import { base, type Schemas } from '../api/client'

/** Would this upload be taken? Files are tried and not kept. */
const props = defineProps<{ kind: string }>()
const answers = ref<Schemas['UploadAnswer'][]>()
const trouble = ref('')

async function pick(e: Event) {
  const input = e.target as HTMLInputElement
  const body = new FormData()
  for (const f of input.files ?? []) body.append('file', f)
  input.value = ''
  trouble.value = ''
  const r = await fetch(`${base}/builders/${props.kind}/upload`, { method: 'POST', body })
  const got = await r.json()
  if (r.ok) answers.value = got.items
  else trouble.value = got.detail
}
</script>

<template>
  <section aria-label="Try an upload">
    <h2>Would this upload be taken?</h2>
    <label class="zone small">Choose files as they would go up in one go; nothing is kept.<input type="file" multiple aria-label="Files to try" @change="pick"></label>
    <p v-if="trouble" role="alert" class="wrong small">{{ trouble }}</p>
    <ul v-if="answers" class="list small" aria-live="polite">
      <li v-for="a in answers" :key="a.name" class="one"><strong :class="{ wrong: !a.taken, right: a.taken }">{{ a.name }}: {{ a.taken ? 'taken' : 'refused' }}</strong><ul v-if="a.says.length"><li v-for="s in a.says" :key="s">{{ s }}</li></ul></li>
    </ul>
  </section>
</template>

<style scoped>
.zone { display: grid; gap: 0.4rem; border: 1.5px dashed var(--rule); padding: 0.7rem 0.9rem; }
.one { padding: 0.4rem 0; }
.one ul { margin: 0.2rem 0 0; padding-left: 1.1rem; }
.wrong { color: var(--barred); }
.right { color: var(--clear); }
</style>
