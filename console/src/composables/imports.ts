import type { Schemas } from '../api/client'

type Item = Schemas['ImportItem']

/** Fonts of an import that go into one family. */
export interface Group {
  key: string
  name: string
  client: Schemas['Ref']
  items: Item[]
  metadata?: Schemas['ImportFamily']
}

/** Why a group is looked at: what somebody has to resolve, what is otherwise than expected, the rest. */
export type Concern = 'decide' | 'mind' | 'new' | 'known'

const unexpected = ['older', 'part', 'whole', 'conflict', 'set-aside', 'mislabeled']

export function concern(items: Item[]): Concern {
  if (items.some((i) => i.undecided && !i.taken && i.marked)) return 'decide'
  if (items.some((i) => unexpected.includes(i.outcome ?? '') || (i.outcome !== 'same' && i.problems.length > 0)))
    return 'mind'
  return items.some((i) => i.outcome !== 'same') ? 'new' : 'known'
}

const order: Concern[] = ['decide', 'mind', 'new', 'known']

/** Fonts by the family they go into: what has to be decided first, then in the order of the import. */
export function grouped(fonts: Item[], families: Schemas['ImportFamily'][]): Group[] {
  const metadata = new Map(families.map((f) => [`${f.client.id} ${f.name.toLowerCase()}`, f]))
  const out = new Map<string, Group>()
  for (const i of fonts) {
    const key = `${i.client!.id} ${i.family!.toLowerCase()}`
    const group = out.get(key) ?? { key, name: i.family!, client: i.client!, items: [], metadata: metadata.get(key) }
    group.items.push(i)
    out.set(key, group)
  }
  const waits = (i: Item) => Number(!!i.undecided && !i.taken)
  for (const g of out.values()) g.items.sort((a, b) => waits(b) - waits(a) || a.path.localeCompare(b.path))
  return [...out.values()].sort((a, b) => order.indexOf(concern(a.items)) - order.indexOf(concern(b.items)))
}

/** Sentences, each once, with how often it is said. */
export function said(sentences: string[]): { text: string; count: number }[] {
  const counts = new Map<string, number>()
  for (const s of sentences) counts.set(s, (counts.get(s) ?? 0) + 1)
  return [...counts].map(([text, count]) => ({ text, count }))
}

const words: Record<string, string> = {
  new: 'new',
  sibling: 'another format',
  newer: 'newer',
  older: 'older',
  same: 'duplicate',
  part: 'partial',
  piece: 'in parts',
  whole: 'more complete',
  conflict: 'conflict',
  'set-aside': 'not used',
  mislabeled: 'mislabeled',
}

/** What becomes of fonts, in a line: "10 new, 2 older". */
export const outcomes = (items: Item[]) =>
  said(items.map((i) => words[i.outcome ?? 'new']!))
    .map((s) => `${s.count} ${s.text}`)
    .join(', ')
