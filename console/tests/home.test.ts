import { expect, test } from 'vitest'
import type { Schemas } from '../src/api/client'
import { daysOn, grouped, tasks } from '../src/composables/home'
import { ago } from '../src/composables/show'

const item = (kind: Schemas['DueKind'], key: string): Schemas['DueItem'] => ({
  kind,
  key,
  state: 'review',
  message: key,
  families: [],
  sites: [],
})

test('items are grouped by what is done about them, in the order of the tasks', () => {
  const found = grouped([
    item('unknown-origin', 'a'),
    item('license-ends', 'b'),
    item('blocked', 'c'),
    item('license-ended', 'd'),
  ])
  expect(found.map((g) => g.items.map((i) => i.key))).toEqual([['c'], ['b', 'd'], ['a']])
  expect(grouped([])).toEqual([])
})

test('every kind has its task once', () => {
  const kinds = tasks.flatMap((t) => t.kinds)
  expect(new Set(kinds).size).toBe(kinds.length)
  expect(kinds).toHaveLength(13)
})

test('days are counted as the API writes them', () => {
  expect(daysOn(1, new Date('2026-12-31T23:30:00Z'))).toBe('2027-01-01')
  expect(daysOn(90, new Date('2026-11-30T00:00:00Z'))).toBe('2027-02-28')
})

test('times are told relative to now', () => {
  const now = Date.parse('2026-11-30T12:00:00Z')
  expect(ago('2026-11-30T11:59:50Z', now)).toBe('just now')
  expect(ago('2026-11-30T11:59:00Z', now)).toBe('1 minute ago')
  expect(ago('2026-11-30T10:00:00Z', now)).toBe('2 hours ago')
  expect(ago('2026-11-27T12:00:00Z', now)).toBe('3 days ago')
})
