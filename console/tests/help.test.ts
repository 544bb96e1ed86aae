import { describe, expect, it } from 'vitest'
import { chapterFor, chapterOf, chapters, chaptersOf, html } from '../src/composables/help'
import { router } from '../src/router'

describe('help', () => {
  it('has a chapter of the guide for every page', () => {
    for (const [, title] of chapterFor) expect(chapters.map((c) => c.title)).toContain(title)
    for (const r of router.getRoutes()) {
      if (r.path.includes('rest')) continue
      const path = r.path.replace(/:kind/, 'bundler').replace(/:[a-zA-Z]+(\(\\d\+\))?/g, '1')
      expect(
        chapterFor.some(([p]) => p.test(path)),
        path,
      ).toBe(true)
    }
    expect(chapterOf('/sites/4/roles').title).toBe('Fonts and roles')
  })
  it('cuts chapters at headings of the same level, and not in code', () => {
    const found = chaptersOf('# A\n\n## One\n\ntext\n\n### Inner\n\nmore\n\n```\n## no heading\n```\n\n## Two\n\nend')
    expect(found.map((c) => c.title)).toEqual(['One', 'Inner', 'Two'])
    expect(found[0]!.text).toContain('more')
    expect(found[0]!.text).not.toContain('end')
  })
  it('keeps links within the guide, and only the text of others', () => {
    const out = html({ title: 'x', level: 2, text: '[here](#sites) and [there](OPERATIONS.md)' })
    expect(out).toContain('<a href="#sites">here</a>')
    expect(out).not.toContain('OPERATIONS')
  })
})
