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
