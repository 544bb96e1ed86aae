import { ref } from 'vue'
import { useRouter } from 'vue-router'
import { useEventListener } from './listen'

/** Something that the palette leads to. */
export interface Target {
  kind: string
  name: string
  to: string
  note?: string
  keys?: string
}

/** Pages that `g` and a letter lead to. */
export const shortcuts = [
  { key: 'h', name: 'Home', to: '/' },
  { key: 'k', name: 'Clients', to: '/clients' },
  { key: 'c', name: 'Catalog', to: '/families' },
  { key: 'i', name: 'Imports', to: '/imports' },
  { key: 's', name: 'Sites', to: '/sites' },
  { key: 'l', name: 'Licenses', to: '/licenses' },
  { key: 'r', name: 'Register', to: '/register' },
  { key: 'o', name: 'Shortlists', to: '/shortlists' },
  { key: 'b', name: 'Builders', to: '/builders' },
  { key: 'm', name: 'Missing details', to: '/gaps' },
  { key: 'a', name: 'Activity', to: '/activity' },
  { key: 'e', name: 'Settings', to: '/settings' },
]

/** What one can begin from anywhere. */
export const actions: (Target & { edits: boolean })[] = [
  { kind: 'Action', name: 'Record a license', to: '/licenses?new', edits: true },
  { kind: 'Action', name: 'Add a site', to: '/sites?new', edits: true },
  { kind: 'Action', name: 'Import fonts', to: '/imports', edits: true },
  { kind: 'Action', name: 'Find a font by its look', to: '/families?kind=serif', edits: false },
  { kind: 'Action', name: 'Print the register', to: '/register', edits: false },
]

/** Targets of which every typed word begins a word of the name; those that begin with it come first. */
export function matching(targets: Target[], typed: string): Target[] {
  const words = typed.toLowerCase().split(/\s+/).filter(Boolean)
  if (!words.length) return targets.filter((t) => t.kind === 'Page')
  const hits = targets.filter((t) => {
    const parts = `${t.name} ${t.note ?? ''}`.toLowerCase().split(/[\s·.,]+/)
    return words.every((w) => parts.some((p) => p.startsWith(w)))
  })
  const first = (t: Target) => Number(t.name.toLowerCase().startsWith(words[0]!))
  return hits.sort((a, b) => first(b) - first(a))
}

/** Whether a key belongs to what somebody types into. */
export const typingIn = (at: EventTarget | null) =>
  at instanceof HTMLElement &&
  (at.isContentEditable || ['INPUT', 'TEXTAREA', 'SELECT'].includes(at.tagName) || !!at.closest('[role="slider"]'))

/**
 * The keys that work on every page: / searches, ? shows the keys, g and a letter go to a page. The palette is open
 * while `open` says so, with the shortcuts where `keys` does.
 */
export function usePaletteKeys() {
  const open = ref(false)
  const keys = ref(false)
  const router = useRouter()
  function show(withKeys = false) {
    keys.value = withKeys
    open.value = true
  }
  let gone = 0
  useEventListener(window, 'keydown', (e) => {
    if (e.ctrlKey || e.metaKey || e.altKey || typingIn(e.target) || open.value) return
    if (e.key === '/') show()
    else if (e.key === '?') show(true)
    else if (e.key === 'g') gone = Date.now()
    else if (Date.now() - gone < 1500) {
      gone = 0
      const s = shortcuts.find((o) => o.key === e.key)
      if (!s) return
      void router.push(s.to)
    } else return
    if (e.key !== 'g') e.preventDefault()
  })
  return { open, keys, show }
}
