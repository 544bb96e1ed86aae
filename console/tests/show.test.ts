import { describe, expect, it } from 'vitest'
import { feature } from '../src/composables/features'
import { reordered } from '../src/composables/order'
import { away, bytes, label, month, some, term, uses } from '../src/composables/show'

describe('values for people', () => {
  it('writes sizes with one decimal from a kilobyte on', () => {
    expect([0, 999, 1000, 999_949, 1_000_000].map(bytes)).toEqual(['0 B', '999 B', '1.0 kB', '999.9 kB', '1.0 MB'])
  })
  it('counts one thing, and several', () => {
    expect(some(1, 'font')).toBe('1 font')
    expect(some(0, 'font')).toBe('0 fonts')
    expect(some(2, 'entry', 'entries')).toBe('2 entries')
  })
  it('writes terms with both, one and no end', () => {
    expect(term({ from: '2026-01-01', until: '2026-12-31' })).toBe('2026-01-01 to 2026-12-31')
    expect(term({ until: '2026-12-31' })).toBe('until 2026-12-31')
    expect(term({ from: '2026-01-01' })).toBe('from 2026-01-01, perpetual')
    expect(term({})).toBe('perpetual')
  })
  it('says how far away a day is', () => {
    expect([-2, -1, 0, 1, 30].map(away)).toEqual(['2 days ago', '1 day ago', 'today', 'in 1 day', 'in 30 days'])
  })
  it('takes a month as one of UTC wherever the reader is', () => {
    expect(month('2026-01')).toContain('2026')
    expect(month('2026-01')).toMatch(/Jan/)
  })
  it('labels what it knows and passes on what it does not', () => {
    expect(label(uses, 'web-hosted')).toBe('Web, hosted')
    expect(label(uses, 'moon')).toBe('moon')
  })
  it('names layout features, numbered ones too', () => {
    expect(['kern', 'ss07', 'cv12', 'zzzz'].map(feature)).toEqual([
      'kerning',
      'stylistic set 7',
      'character variant 12',
      '',
    ])
  })
})

describe('lists in an order', () => {
  it('moves a thing either way and leaves the list alone', () => {
    const list = ['a', 'b', 'c', 'd']
    expect(reordered(list, 0, 2)).toEqual(['b', 'c', 'a', 'd'])
    expect(reordered(list, 3, 0)).toEqual(['d', 'a', 'b', 'c'])
    expect(reordered(list, 9, 0)).toEqual(list)
    expect(list).toEqual(['a', 'b', 'c', 'd'])
  })
})
