import { useQueryClient, type QueryClient, type QueryKey } from '@tanstack/vue-query'
import { onScopeDispose, watch } from 'vue'
import { base } from '../api/client'
import { renew } from './renew'

/** What is watched by topic: what is read again when it changes. One stream serves the page. */
const watched = new Map<string, Set<QueryKey>>()
const reading = new Map<QueryKey, 'reading' | 'again'>()
let stream: EventSource | undefined
let tuning: ReturnType<typeof setTimeout> | undefined

/** Reads once more after a change that came while it was being read. */
async function keepUp(client: QueryClient, key: QueryKey) {
  if (reading.has(key)) {
    reading.set(key, 'again')
    return
  }
  do {
    reading.set(key, 'reading')
    await renew(client, key)
  } while (reading.get(key) === 'again')
  reading.delete(key)
}

function tune(client: QueryClient) {
  clearTimeout(tuning)
  tuning = setTimeout(() => {
    stream?.close()
    stream = undefined
    if (!watched.size) return
    stream = new EventSource(
      `${base}/events?${new URLSearchParams([...watched.keys()].map((topic) => ['topic', topic]))}`,
    )
    stream.addEventListener('changed', (e) => watched.get(e.data as string)?.forEach((key) => void keepUp(client, key)))
  })
}

/** Has what is kept under a key read again whenever the service says that a topic changed; no topic, no watch. */
export function watching(topic: () => string | undefined, key: () => QueryKey) {
  const client = useQueryClient()
  let now: { topic: string; key: QueryKey } | undefined
  const leave = () => {
    if (!now) return
    const keys = watched.get(now.topic)
    keys?.delete(now.key)
    if (!keys?.size) watched.delete(now.topic)
    now = undefined
    tune(client)
  }
  watch(
    topic,
    (to) => {
      leave()
      if (!to) return
      now = { topic: to, key: key() }
      watched.set(to, (watched.get(to) ?? new Set()).add(now.key))
      tune(client)
    },
    { immediate: true },
  )
  onScopeDispose(leave)
}
