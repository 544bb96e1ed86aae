import { describe, expect, it } from 'vitest'
import { pageWords } from '../src/composables/roledraft'

describe('the words of a preview', () => {
  it('are a heading, a second sentence and running text', () => {
    const words = pageWords('Next ferry at 16:35. Quay 4 is closed! Ask on board')
    expect(words.title).toBe('Next ferry at 16:35')
    expect(words.second).toBe('Quay 4 is closed!')
    expect(words.running.startsWith('Next ferry at 16:35. Quay 4 is closed! Ask on board. Next')).toBe(true)
  })
  it('repeat a single sentence, and never are empty', () => {
    expect(pageWords('Ferry')).toEqual({ title: 'Ferry', second: 'Ferry', running: 'Ferry. Ferry.' })
    expect(pageWords('  ').title.length).toBeGreaterThan(10)
  })
})
