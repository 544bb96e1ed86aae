import { describe, expect, it } from 'vitest'
import { chips, fromAddress, narrowing, toAddress, toLine, without } from '../src/composables/search'
import { offScale, onScale, scales } from '../src/composables/search'

describe('searches in an address', () => {
  it('reads what the router gives, single and repeated', () => {
    const f = fromAddress({ q: 'sans', tag: ['poster', 'signs'], script: 'Latin', weight: null, other: 'x' })
    expect(f.q).toBe('sans')
    expect(f.tag).toEqual(['poster', 'signs'])
    expect(f.script).toEqual(['Latin'])
    expect(f.weight).toBe('')
    expect(f.problem).toEqual([])
  })
  it('writes only what is asked for', () => {
    expect(toAddress(fromAddress({}))).toEqual({})
    expect(toAddress(fromAddress({ q: 'sans', tag: 'poster' }))).toEqual({ q: 'sans', tag: ['poster'] })
  })
  it('comes back the same from a line that is kept', () => {
    const f = fromAddress({ q: 'a&b=c ü', tag: ['x', 'y'], status: 'retired', sort: 'newest' })
    expect(fromAddress(new URLSearchParams(toLine(f)))).toEqual(f)
  })
  it('counts filters, not words and order', () => {
    expect(narrowing(fromAddress({ q: 'sans', sort: 'name' }))).toBe(0)
    expect(narrowing(fromAddress({ q: 'sans', tag: ['x', 'y'], status: 'retired' }))).toBe(2)
  })
})

describe('filters as chips', () => {
  it('names each value, with words that only the service knows', () => {
    const f = fromAddress({ kind: ['sans', 'mono'], language: 'pl', variable: 'false', q: 'x', sort: 'name' })
    const named = (key: string, value: string) => (key === 'language' && value === 'pl' ? 'Polish' : undefined)
    expect(chips(f, named).map((c) => c.label)).toEqual([
      'Variable: no',
      'Kind: Sans serif',
      'Kind: Monospaced',
      'Language: Polish',
    ])
  })
  it('take off one value and keep the others', () => {
    const f = fromAddress({ kind: ['sans', 'mono'], variable: 'true' })
    expect(without(f, { key: 'kind', value: 'sans' }).kind).toEqual(['mono'])
    expect(without(f, { key: 'variable', value: 'true' }).variable).toBe('')
    expect(without(f, { key: 'variable', value: 'true' }).kind).toEqual(['sans', 'mono'])
  })
})

describe('measures on a slider', () => {
  const stem = scales.find((s) => s.key === 'stem')!
  it('are a range only where an end is moved', () => {
    expect(offScale([stem.min, stem.max], stem)).toBe('')
    expect(offScale([10, stem.max], stem)).toBe('10-')
    expect(offScale([stem.min, 20], stem)).toBe('-20')
    expect(offScale([10, 20], stem)).toBe('10-20')
  })
  it('come back from the text of an address', () => {
    expect(onScale('', stem)).toEqual([stem.min, stem.max])
    expect(onScale('10-', stem)).toEqual([10, stem.max])
    expect(onScale('-20', stem)).toEqual([stem.min, 20])
    expect(onScale('12', stem)).toEqual([12, 12])
  })
})
