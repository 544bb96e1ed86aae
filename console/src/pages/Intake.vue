<script setup lang="ts">
import { useQueryClient } from '@tanstack/vue-query'
import { ElButton, ElOption, ElProgress, ElSelect } from 'element-plus'
import { computed, ref, watch } from 'vue'
import { base, type Schemas } from '../api/client'
import { clients } from '../api/queries'
import { bytes, origins } from '../state/show'

interface Arrival { key: number; file: File; sent: number; done?: Schemas['IntakeResult']; trouble?: string }

const queries = useQueryClient()
const { data: known } = clients()
const client = ref('')
const origin = ref<Schemas['Origin']>('unknown')
const arrivals = ref<Arrival[]>([])
const over = ref(false)
const running = ref(false)
watch(known, (k) => (client.value ||= k?.items.find((c) => c.studio)?.name ?? ''), { immediate: true })

const finished = computed(() => arrivals.value.filter((a) => a.done || a.trouble).length)
const share = computed(() => {
  const total = arrivals.value.reduce((n, a) => n + a.file.size, 0)
  const sent = arrivals.value.reduce((n, a) => n + (a.done || a.trouble ? a.file.size : a.sent), 0)
  return total ? Math.round((100 * sent) / total) : 0
})

function take(files: Iterable<File>) {
  const start = arrivals.value.length
  arrivals.value.push(...[...files].map((file, i) => ({ key: start + i, file, sent: 0 })))
  void run()
}

async function run() {
  if (running.value) return
  running.value = true
  for (let next; (next = arrivals.value.find((a) => !a.done && !a.trouble)); ) await send(next)
  running.value = false
  await queries.invalidateQueries({ queryKey: ['families'] })
  await queries.invalidateQueries({ queryKey: ['activity'] })
}

/** One file in one request; the browser's older way to send tells how far it is. */
function send(a: Arrival): Promise<void> {
  const body = new FormData()
  body.append('client', client.value)
  body.append('origin', origin.value)
  body.append('file', a.file)
  return new Promise((resolve) => {
    const x = new XMLHttpRequest()
    x.open('POST', `${base}/files`)
    x.responseType = 'json'
    x.upload.onprogress = (e) => (a.sent = e.loaded)
    x.onload = () => {
      if (x.status === 200) a.done = x.response as Schemas['IntakeResult']
      else a.trouble = (x.response as Schemas['Problem'] | null)?.detail ?? `The service answered ${x.status}. Try again.`
      resolve()
    }
    x.onerror = () => {
      a.trouble = 'The service cannot be reached. Check that it is running, then drop the file again.'
      resolve()
    }
    x.send(body)
  })
}

function dropped(e: DragEvent) {
  over.value = false
  take(e.dataTransfer?.files ?? [])
}
function picked(e: Event) {
  const input = e.target as HTMLInputElement
  take(input.files ?? [])
  input.value = ''
}
</script>

<template>
  <div class="page">
    <div class="head"><h1>Intake</h1></div>
    <div class="row sheet">
      <div class="field"><span class="soft small">For the client</span><ElSelect v-model="client" aria-label="For the client"><ElOption v-for="c in known?.items ?? []" :key="c.id" :value="c.name" :label="c.name" /></ElSelect></div>
      <div class="field"><span class="soft small">Where it came from</span><ElSelect v-model="origin" aria-label="Where it came from"><ElOption v-for="o in origins" :key="o.value" :value="o.value" :label="o.label" /></ElSelect></div>
    </div>
    <label class="zone" :class="{ over }" @dragover.prevent="over = true" @dragleave="over = false" @drop.prevent="dropped">
      <span class="big">Drop font files here</span>
      <span class="soft">or press to choose them: TTF, OTF, collections, WOFF, WOFF2, EOT</span>
      <input type="file" multiple class="hidden" @change="picked">
    </label>
    <template v-if="arrivals.length">
      <div class="row bar"><ElProgress :percentage="share" :stroke-width="10" class="grow" /><span class="small soft">{{ finished }} of {{ arrivals.length }} read</span></div>
      <ul class="list" aria-live="polite">
        <li v-for="a in arrivals" :key="a.key" class="arrival" :data-outcome="a.trouble ? 'refused' : a.done?.outcome">
          <strong class="file">{{ a.file.name }}</strong><span class="soft small">{{ bytes(a.file.size) }}</span>
          <span v-if="a.trouble" class="trouble">{{ a.trouble }}</span>
          <template v-else-if="a.done">
            <span>{{ a.done.message }} <RouterLink :to="`/families/${a.done.family.id}`">Open {{ a.done.family.name }}</RouterLink></span>
            <span v-for="p in a.done.faces.flatMap((f) => f.problems)" :key="p.code" class="small query">{{ p.message }}</span>
          </template>
          <span v-else class="soft">{{ a.sent ? 'Sending …' : 'Waiting' }}</span>
        </li>
      </ul>
      <ElButton v-if="!running" @click="arrivals = []">Clear this list</ElButton>
    </template>
  </div>
</template>

<style scoped>
.field { min-width: 14rem; }
.field > span { display: block; }
.zone { display: grid; place-items: center; align-content: center; gap: 0.3rem; min-height: 11rem; margin: 1rem 0; border: 2px dashed var(--el-border-color); background: var(--sheet); cursor: pointer; }
.zone:hover, .zone.over, .zone:focus-within { border-color: var(--rust); }
.big { font-size: 1.25rem; font-weight: 600; }
.hidden { position: absolute; width: 1px; height: 1px; opacity: 0; }
.bar { margin-bottom: 0.5rem; }
.grow { flex: 1; }
.arrival { display: grid; grid-template-columns: minmax(0, 18rem) 5rem minmax(0, 1fr); gap: 0.2rem 1rem; padding: 0.55rem 0; }
.arrival > :nth-child(n + 3) { grid-column: 3; }
.file { overflow-wrap: anywhere; font-weight: 600; }
.trouble { color: var(--barred); }
.query { color: var(--query); }
@media (max-width: 46rem) { .arrival { grid-template-columns: 1fr auto; } .arrival > :nth-child(n + 3) { grid-column: 1 / -1; } }
</style>
