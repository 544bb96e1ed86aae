import { describe, expect, it } from 'vitest'
import type { Schemas } from '../src/api/client'
import { questions, suggest, type Answers } from '../src/composables/whichbuilder'

const shipped = Object.values(
  import.meta.glob('../../internal/builder/shipped/*.json', { eager: true, import: 'default' }),
).map((rules) => ({ rules, sites: [] }) as unknown as Schemas['BuilderRecord'])
const best = (answers: Answers) => suggest(shipped, answers).map((s) => s.builder.rules.kind)

describe('which builder is mine', () => {
  it('finds each shipped builder by the answers that its rules give', () => {
    for (const b of shipped) {
      const answers: Answers = {}
      for (const q of questions) answers[q.key] = q.answers.find((a) => a.fits(b.rules))?.value
      expect(Object.values(answers).every(Boolean), b.rules.kind).toBe(true)
      const perfect = suggest(shipped, answers).filter((s) => !s.misses.length)
      expect(
        perfect.map((s) => s.builder.rules.kind),
        b.rules.kind,
      ).toContain(b.rules.kind)
      expect(perfect.length, b.rules.kind).toBeLessThanOrEqual(2)
    }
  })
  it('counts what is left open for nobody', () => {
    expect(best({})).toEqual([])
    expect(best({ for: 'desktop' })[0]).toBe('desktop')
    expect(best({ styles: 'block', url: '' })[0]).toBe('page-block')
  })
  it('keeps builders that miss one answer, behind those that miss none', () => {
    const found = suggest(shipped, { for: 'web', styles: 'box', url: 'after' })
    expect(found[0]!.builder.rules.kind).toBe('style-box')
    expect(found.slice(1).every((s) => s.misses.length <= 1)).toBe(true)
  })
})
