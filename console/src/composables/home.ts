import type { Schemas } from '../api/client'

type Item = Schemas['DueItem']

/** What needs attention, by what one does about it; the most pressing comes first. */
export const tasks: { title: string; kinds: Schemas['DueKind'][] }[] = [
  { title: 'Backups', kinds: ['backup-late'] },
  { title: 'Blocked and unlicensed fonts', kinds: ['blocked', 'unlicensed'] },
  { title: 'Licenses to renew', kinds: ['license-ended', 'license-ends'] },
  { title: 'License limits', kinds: ['over-limit', 'near-limit'] },
  { title: 'Verdicts to review', kinds: ['review', 'sign-off-ends'] },
  { title: 'Packs to rebuild', kinds: ['pack-outdated', 'retired-in-use'] },
  { title: 'Findings on published pages', kinds: ['new-findings'] },
  { title: 'Origins to confirm', kinds: ['unknown-origin'] },
]

/** The tasks that there are items for, each with its items in the order given. */
export const grouped = (items: Item[]) =>
  tasks.map((t) => ({ ...t, items: items.filter((i) => t.kinds.includes(i.kind)) })).filter((t) => t.items.length > 0)

/** A day some days from now, as the API writes days. */
export function daysOn(days: number, from = new Date()): string {
  return new Date(Date.UTC(from.getUTCFullYear(), from.getUTCMonth(), from.getUTCDate() + days))
    .toISOString()
    .slice(0, 10)
}

/** How long something can be snoozed. */
export const spans = [
  { days: 1, name: 'Until tomorrow' },
  { days: 7, name: 'For 1 week' },
  { days: 30, name: 'For 30 days' },
  { days: 90, name: 'For 90 days' },
]
