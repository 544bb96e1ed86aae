import { describe, expect, it } from 'vitest'
import { fromAddress, narrowing, toAddress, toLine } from '../src/composables/search'

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
