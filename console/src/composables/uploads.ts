import { reactive } from 'vue'
import { base, type Schemas } from '../api/client'

/** A file on its way into an import. */
export interface Upload {
  path: string
  file: File
  sent: number
  done: boolean
  trouble: string
}

/** What is being sent, by import; it goes on while other pages are open. */
const under = reactive(new Map<number, { files: Upload[]; since: number; stopped: boolean }>())
const atOnce = 3

export function uploads(importId: number) {
  return under.get(importId)
}

/** Sends files into an import, a few at a time. */
export async function uploadAll(importId: number, files: { file: File; path: string }[]) {
  const list = files.map(({ file, path }) => ({ file, path, sent: 0, done: false, trouble: '' }))
  const before = under.get(importId)
  if (before) before.files.push(...list)
  else under.set(importId, { files: list, since: Date.now(), stopped: false })
  const all = under.get(importId)!
  const waiting = all.files.slice(-list.length)
  const worker = async () => {
    for (let next; !all.stopped && (next = waiting.shift());) {
      await send(importId, next)
    }
  }
  await Promise.all(Array.from({ length: atOnce }, worker))
}

/** Sends no further file. */
export function stop(importId: number) {
  const all = under.get(importId)
  if (all) all.stopped = true
}

/** One file in one request; the browser's older way to send tells how far it is. */
function send(importId: number, u: Upload): Promise<void> {
  const body = new FormData()
  body.append('path', u.path)
  body.append('file', u.file)
  return new Promise((resolve) => {
    const x = new XMLHttpRequest()
    x.open('POST', `${base}/imports/${importId}/items`)
    x.responseType = 'json'
    x.upload.onprogress = (e) => (u.sent = Math.min(e.loaded, u.file.size))
    x.onload = () => {
      u.done = true
      if (x.status !== 200)
        u.trouble =
          (x.response as Schemas['Problem'] | null)?.detail ?? `The service answered ${x.status}. Drop the file again.`
      resolve()
    }
    x.onerror = () => {
      u.done = true
      u.trouble = 'The service cannot be reached. Check that it is running, then drop the file again.'
      resolve()
    }
    x.send(body)
  })
}

/** The files of a drop, those within folders too, with their paths. */
export async function dropped(items: DataTransferItemList): Promise<{ file: File; path: string }[]> {
  const entries = [...items].map((i) => i.webkitGetAsEntry()).filter((e) => e !== null)
  const out: { file: File; path: string }[] = []
  const walk = async (entry: FileSystemEntry): Promise<void> => {
    if (entry.isFile) {
      const file = await new Promise<File>((ok, fail) => (entry as FileSystemFileEntry).file(ok, fail))
      out.push({ file, path: entry.fullPath.replace(/^\//, '') })
      return
    }
    const reader = (entry as FileSystemDirectoryEntry).createReader()
    for (;;) {
      // a reader gives a hundred at a time
      const some = await new Promise<FileSystemEntry[]>((ok, fail) => reader.readEntries(ok, fail))
      if (!some.length) return
      for (const e of some) await walk(e)
    }
  }
  for (const e of entries) await walk(e)
  return out
}

export const picked = (files: FileList | null) =>
  [...(files ?? [])].map((file) => ({ file, path: file.webkitRelativePath || file.name }))

/** What a drop is known by: its folder or zip, or its first file. */
export function titleOf(files: { path: string }[]) {
  const tops = [...new Set(files.map((f) => f.path.split('/')[0]))]
  return tops.length > 1 ? `${tops[0]} and ${tops.length - 1} more` : tops[0]
}
