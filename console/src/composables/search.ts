import type { LocationQuery } from 'vue-router'
import { label, origins } from './show'

/** What a search of the catalog asks for, as it stands in the page's URL; the names are the API's. */
export const lists = [
  'kind',
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
/** Measures of outlines, as ranges. */
export const measured = ['stem', 'contrast', 'xHeight', 'letterWidth', 'roundness', 'slant'] as const
export const texts = [
  'q',
  'client',
  'weight',
  'width',
  ...measured,
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

/** A filter that is set, as a chip shows it. */
export interface Chip {
  key: keyof Filters
  value: string
  label: string
}

/** The filters that are set, one chip for each value; named gives words for values that only the service knows. */
export function chips(f: Filters, named: (key: string, value: string) => string | undefined = () => undefined): Chip[] {
  const out: Chip[] = []
  for (const key of [...texts, ...lists]) {
    if (key === 'q' || key === 'sort') continue
    for (const value of [f[key]].flat()) {
      if (value) out.push({ key, value, label: `${titles[key]}: ${named(key, value) ?? word(key, value)}` })
    }
  }
  return out
}

/** The filters without one value. */
export function without(f: Filters, chip: Pick<Chip, 'key' | 'value'>): Filters {
  const was = f[chip.key]
  return { ...f, [chip.key]: Array.isArray(was) ? was.filter((v) => v !== chip.value) : '' }
}

export const titles: Record<(typeof lists)[number] | (typeof texts)[number], string> = {
  q: 'Search',
  kind: 'Kind',
  origin: 'Origin',
  permission: 'Permission',
  license: 'License',
  format: 'Format',
  slope: 'Slope',
  script: 'Script',
  language: 'Language',
  feature: 'Feature',
  problem: 'Problem',
  tag: 'Tag',
  client: 'Client',
  weight: 'Weight',
  width: 'Width',
  stem: 'Stem thickness',
  contrast: 'Stroke contrast',
  xHeight: 'x-height',
  letterWidth: 'Letter width',
  roundness: 'Roundness',
  slant: 'Slant',
  variable: 'Variable',
  color: 'Color',
  used: 'In use',
  status: 'Status',
  sort: 'Order',
  shortlist: 'Shortlist',
}

/** The words of a value. */
export function word(key: keyof Filters, value: string): string {
  switch (key) {
    case 'kind':
      return label(kinds, value)
    case 'origin':
      return label(origins, value)
    case 'permission':
      return label(permissions, value)
    case 'license':
      return label(licenseStates, value)
    case 'status':
      return label(statuses, value)
    case 'variable':
    case 'color':
    case 'used':
      return value === 'true' ? 'yes' : 'no'
    case 'format':
      return value.toUpperCase()
    case 'weight':
      return value
  }
  const scale = scales.find((s) => s.key === key)
  return scale ? `${value.replace(/-$/, ' or more').replace(/^-/, 'up to ').replace('-', ' to ')}${scale.unit}` : value
}

export const kinds = [
  { value: 'sans', label: 'Sans serif' },
  { value: 'serif', label: 'Serif' },
  { value: 'mono', label: 'Monospaced' },
  { value: 'script', label: 'Script' },
  { value: 'display', label: 'Display' },
] as const

/** The measures of outlines with the ends of their scales; what lies at an end is not bounded there. */
export const scales = [
  { key: 'stem', label: 'Stem thickness', unit: ' %', min: 2, max: 40, step: 1, ends: ['hairline', 'black'] },
  { key: 'contrast', label: 'Stroke contrast', unit: ' : 1', min: 1, max: 8, step: 0.1, ends: ['none', 'high'] },
  { key: 'xHeight', label: 'x-height', unit: ' %', min: 45, max: 95, step: 1, ends: ['small', 'large'] },
  { key: 'letterWidth', label: 'Letter width', unit: ' %', min: 50, max: 150, step: 1, ends: ['narrow', 'wide'] },
  { key: 'roundness', label: 'Roundness', unit: '', min: 0, max: 100, step: 1, ends: ['square', 'round'] },
  { key: 'slant', label: 'Slant', unit: '°', min: 0, max: 25, step: 0.5, ends: ['upright', 'slanted'] },
] as const

/** The ends of a range on a scale, and back; an end of the scale is no limit. */
export function onScale(text: string, s: { min: number; max: number }): [number, number] {
  const [from, to] = text.includes('-') ? text.split('-') : [text, text]
  return [Number(from) || s.min, Number(to) || s.max]
}
export function offScale([low, high]: [number, number], s: { min: number; max: number }): string {
  const from = low <= s.min ? '' : String(low)
  const to = high >= s.max ? '' : String(high)
  return from || to ? `${from}-${to}` : ''
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
  { value: 'lapsed', label: 'Expired' },
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
  { value: '', label: 'Active' },
  { value: 'active', label: 'Active' },
  { value: 'retired', label: 'Retired' },
  { value: 'deleted', label: 'Deleted' },
] as const

/** How the catalog shows families. */
export const views = ['list', 'grid', 'specimen'] as const
export type View = (typeof views)[number]
