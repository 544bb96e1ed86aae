<script setup lang="ts">
import { ElInput } from 'element-plus'
import { reactive, ref, shallowRef, watch } from 'vue'
import { base, type Schemas } from '../../api/client'

/** Upload check Files are tried and not kept. */
const props = defineProps<{ kind: string; fields: string[] }>()
const typed = reactive<Record<string, string>>({})
const files = shallowRef<File[]>([])
const answers = ref<Schemas['UploadAnswer'][]>()
const trouble = ref('')
const asks = ref(false)

function pick(e: Event) {
  const input = e.target as HTMLInputElement
  files.value = [...(input.files ?? [])]
  input.value = ''
}

/** What is typed goes with the first file, as a form has it; what is answered is always of what is typed now. */
async function ask(stale: AbortSignal) {
  const body = new FormData()
  const said = Object.fromEntries(props.fields.filter((f) => typed[f]?.trim()).map((f) => [f, typed[f]]))
  if (Object.keys(said).length) body.append('fields', JSON.stringify(said))
  for (const f of files.value) body.append('file', f)
  try {
    const r = await fetch(`${base}/builders/${props.kind}/upload`, { method: 'POST', body, signal: stale })
    const got = await r.json()
    if (stale.aborted) return
    answers.value = r.ok ? got.items : undefined
    trouble.value = r.ok ? '' : got.detail
  } catch {
    if (stale.aborted) return
    answers.value = undefined
    trouble.value = 'The files could not be uploaded. Check that the service is running, and choose them again.'
  }
  asks.value = false
}
watch([files, () => ({ ...typed })], (_, before, onCleanup) => {
  if (!files.value.length) return
  const stale = new AbortController()
  asks.value = true
  const wait = setTimeout(() => void ask(stale.signal), before[0] === files.value ? 300 : 0)
  onCleanup(() => {
    clearTimeout(wait)
    stale.abort()
  })
})
</script>

<template>
  <section aria-label="Try an upload">
    <h2>Upload check</h2>
    <div v-if="fields.length" class="typed small">
      <label v-for="f in fields" :key="f"
        >{{ f }}<ElInput v-model="typed[f]" size="small" :aria-label="`Value for ${f}`"
      /></label>
    </div>
    <label class="zone small"
      >Choose the files of one upload. Nothing is stored.<input
        type="file"
        multiple
        aria-label="Files to try"
        @change="pick"
    /></label>
    <p v-if="trouble" role="alert" class="wrong small">{{ trouble }}</p>
    <ul v-if="answers" class="list small" aria-live="polite" :aria-busy="asks" :class="{ asks }">
      <li v-for="a in answers" :key="a.name" class="one">
        <strong :class="{ wrong: !a.taken, right: a.taken }">{{ a.name }}: {{ a.taken ? 'taken' : 'refused' }}</strong>
        <ul v-if="a.says.length">
          <li v-for="s in a.says" :key="s">{{ s }}</li>
        </ul>
      </li>
    </ul>
  </section>
</template>

<style scoped>
.typed {
  display: grid;
  grid-template-columns: repeat(auto-fill, minmax(9rem, 1fr));
  gap: 0.4rem 0.8rem;
  margin-bottom: 0.6rem;
}
.zone {
  display: grid;
  gap: 0.4rem;
  border: 1.5px dashed var(--rule);
  padding: 0.7rem 0.9rem;
}
.one {
  padding: 0.4rem 0;
}
.one ul {
  margin: 0.2rem 0 0;
  padding-left: 1.1rem;
}
.asks {
  opacity: 0.5;
}
.wrong {
  color: var(--bad);
}
.right {
  color: var(--good);
}
</style>
