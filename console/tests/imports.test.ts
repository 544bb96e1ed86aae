import { describe, expect, it } from 'vitest'
import type { Schemas } from '../src/api/client'
import { concern, grouped, outcomes, said } from '../src/composables/imports'

type Item = Schemas['ImportItem']
let id = 0
const font = (family: string, more: Partial<Item> = {}): Item => ({
  id: ++id,
  path: `${family}-${id}.ttf`,
  kind: 'font',
  bytes: 1,
  why: '',
  marked: true,
  taken: false,
  faces: [],
  problems: [],
  client: { id: 1, name: 'Ferries' },
  family,
  outcome: 'new',
  ...more,
})

describe('the fonts of an import', () => {
  it('are grouped by family and client, what has to be decided first', () => {
    const items = [
      font('Skerrow Sans'),
      font('Umbrisk', { outcome: 'older' }),
      font('Tidegarth', { outcome: 'conflict', undecided: true }),
      font('skerrow sans', { outcome: 'same' }),
      font('Skerrow Sans', { client: { id: 2, name: 'Hall' } }),
      font('Kraka', { outcome: 'same', problems: ['No kerning.'] }),
    ]
    const metadata = [{ name: 'Umbrisk', client: { id: 1, name: 'Ferries' }, styles: [], warnings: ['No bold.'] }]
    const groups = grouped(items, metadata)
    expect(groups.map((g) => [g.name, g.items.length, concern(g.items)])).toEqual([
      ['Tidegarth', 1, 'decide'],
      ['Umbrisk', 1, 'mind'],
      ['Skerrow Sans', 2, 'new'],
      ['Skerrow Sans', 1, 'new'],
      ['Kraka', 1, 'known'],
    ])
    expect(groups[1]!.metadata?.warnings).toEqual(['No bold.'])
    expect(outcomes(groups[2]!.items)).toBe('1 new, 1 duplicate')
  })

  it('are nothing to resolve on once they are imported or skipped', () => {
    const waits = { outcome: 'conflict', undecided: true } as const
    expect(concern([font('A', waits)])).toBe('decide')
    expect(concern([font('A', { ...waits, taken: true })])).toBe('mind')
    expect(concern([font('A', { ...waits, marked: false })])).toBe('mind')
    const [group] = grouped(
      [font('A', { path: 'b' }), font('A', { ...waits, path: 'z' }), font('A', { path: 'a' })],
      [],
    )
    expect(group!.items.map((i) => i.path)).toEqual(['z', 'a', 'b'])
  })

  it('say each sentence once', () => {
    expect(said(['x', 'y', 'x'])).toEqual([
      { text: 'x', count: 2 },
      { text: 'y', count: 1 },
    ])
  })
})
