import type { Schemas } from '../api/client'

/** Writing values for people. */
export function bytes(n: number): string {
  if (n < 1000) return `${n} B`
  if (n < 1e6) return `${(n / 1e3).toFixed(1)} kB`
  if (n < 1e9) return `${(n / 1e6).toFixed(1)} MB`
  return `${(n / 1e9).toFixed(1)} GB`
}

/** A number of things: 1 font, 2 fonts. */
export const some = (n: number, thing: string, things = `${thing}s`) =>
  `${n.toLocaleString()} ${n === 1 ? thing : things}`

export function when(iso: string): string {
  return new Date(iso).toLocaleString(undefined, { dateStyle: 'medium', timeStyle: 'short' })
}

/** How long ago something was, in words. */
export function ago(iso: string, now = Date.now()): string {
  const minutes = Math.round((now - Date.parse(iso)) / 6e4)
  if (minutes < 1) return 'just now'
  if (minutes < 60) return `${some(minutes, 'minute')} ago`
  const hours = Math.round(minutes / 60)
  if (hours < 24) return `${some(hours, 'hour')} ago`
  const days = Math.round(hours / 24)
  return days < 60 ? `${some(days, 'day')} ago` : new Date(iso).toLocaleDateString(undefined, { dateStyle: 'medium' })
}

export function term(l: { from?: string; until?: string }): string {
  if (l.from && l.until) return `${l.from} to ${l.until}`
  if (l.until) return `until ${l.until}`
  return l.from ? `from ${l.from}, perpetual` : 'perpetual'
}

export const origins = [
  { value: 'bought', label: 'Bought' },
  { value: 'client', label: 'Supplied by the client' },
  { value: 'open', label: 'Open' },
  { value: 'commissioned', label: 'Commissioned' },
  { value: 'hosted', label: 'Hosted elsewhere' },
  { value: 'unknown', label: 'Unknown' },
] as const

/** Verdicts in words. */
export const verdicts: Record<string, string> = { cleared: 'Cleared', review: 'Needs review', blocked: 'Blocked' }

/** The order of verdicts where rows are sorted by them: the worst first. */
export const heaviness: Record<string, number> = { blocked: 0, review: 1, cleared: 2 }

export const importStates = {
  open: { label: 'To review', tone: 'review' },
  accepting: { label: 'Importing', tone: 'review' },
  finished: { label: 'Finished', tone: 'cleared' },
  discarded: { label: 'Discarded', tone: 'soft' },
} as const

export const uses = [
  { value: 'web', label: 'Web, self-hosted' },
  { value: 'web-hosted', label: 'Web, hosted' },
  { value: 'desktop', label: 'Desktop' },
  { value: 'app', label: 'App' },
  { value: 'document', label: 'Electronic document' },
  { value: 'server', label: 'Server' },
] as const

export function label(list: readonly { value: string; label: string }[], value: string): string {
  return list.find((o) => o.value === value)?.label ?? value
}

/** An amount of money, given in hundredths. */
export const money = (hundredths: number, currency: string) =>
  new Intl.NumberFormat(undefined, { style: 'currency', currency }).format(hundredths / 100)

/** A month written 2026-10, in words. */
export const month = (m: string) =>
  new Date(`${m}-01T00:00:00Z`).toLocaleDateString(undefined, { month: 'long', year: 'numeric', timeZone: 'UTC' })

export const measures = [
  { value: 'page-views', label: 'page views a month' },
  { value: 'seats', label: 'seats' },
  { value: 'apps', label: 'apps' },
] as const

/** How far away a day is, in words. */
export function away(days: number): string {
  if (days === 0) return 'today'
  return days < 0 ? `${some(-days, 'day')} ago` : `in ${some(days, 'day')}`
}

/** A one-time password, to hand over. */
export const handedOver = (p: Schemas['AddedPerson']) =>
  `${p.person.name} signs in as ${p.person.email} with the one-time password ${p.oneTimePassword}`
