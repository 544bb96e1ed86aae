import type { LocationQuery } from 'vue-router'

/** What a search of the catalog asks for, as it stands in the page's address; the names are the API's. */
export const lists = [
  'origin',
  'permission',
  'license',
  'format',
  'slope',
  'script',
  'language',
  'feature',
  'problem',
  'tag',
] as const
export const texts = [
  'q',
  'client',
  'weight',
  'width',
  'variable',
  'color',
  'used',
  'status',
  'sort',
  'shortlist',
] as const
export type Filters = Record<(typeof lists)[number], string[]> & Record<(typeof texts)[number], string>

export function fromAddress(query: LocationQuery | URLSearchParams): Filters {
  const all = (name: string): string[] => {
    const found = query instanceof URLSearchParams ? query.getAll(name) : [query[name]].flat()
    return found.filter((v): v is string => typeof v === 'string' && v !== '')
  }
  return Object.fromEntries([...lists.map((l) => [l, all(l)]), ...texts.map((t) => [t, all(t)[0] ?? ''])])
}

/** Only what is asked for, so that addresses stay short. */
export function toAddress(f: Filters): Record<string, string | string[]> {
  return Object.fromEntries([...texts, ...lists].map((k) => [k, f[k]] as const).filter(([, v]) => v.length > 0))
}

/** The same as one line, for keeping. */
export function toLine(f: Filters): string {
  const line = new URLSearchParams()
  for (const [k, v] of Object.entries(toAddress(f))) for (const one of [v].flat()) line.append(k, one)
  return line.toString()
}

/** How many filters are set besides the words and the order. */
export function narrowing(f: Filters): number {
  return Object.keys(toAddress(f)).filter((k) => k !== 'q' && k !== 'sort').length
}

export const permissions = [
  { value: 'installable', label: 'Installable' },
  { value: 'editable', label: 'Editable' },
  { value: 'preview-print', label: 'Preview and print' },
  { value: 'restricted', label: 'Restricted' },
  { value: 'not-stated', label: 'Not stated' },
] as const

export const licenseStates = [
  { value: 'none', label: 'No license' },
  { value: 'in-force', label: 'In force' },
  { value: 'ending', label: 'Ends within 30 days' },
  { value: 'lapsed', label: 'Lapsed' },
  { value: 'unproven', label: 'Without evidence' },
] as const

export const sorts = [
  { value: '', label: 'Best match, then name' },
  { value: 'name', label: 'Name' },
  { value: 'newest', label: 'Last added' },
  { value: 'changed', label: 'Last changed' },
  { value: 'faces', label: 'Most faces' },
] as const

export const statuses = [
  { value: '', label: 'In the catalog' },
  { value: 'retired', label: 'Retired' },
  { value: 'deleted', label: 'Deleted' },
] as const

/** Either way, or does not matter. */
export const either = (yes: string, no: string) => [
  { value: '', label: 'Does not matter' },
  { value: 'true', label: yes },
  { value: 'false', label: no },
]
