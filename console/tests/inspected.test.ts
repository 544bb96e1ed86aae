import { expect, test } from 'vitest'
import type { Schemas } from '../src/api/client'
import { outlined, pinned } from '../src/composables/inspected'

const box = { x: 10, y: 20, width: 300, height: 40 }
const run = (selector: string, used: string, webFont: boolean, over: Partial<Schemas['RunOnPage']> = {}) => ({
  selector,
  width: 1280,
  asked: used,
  weight: 400,
  style: 'normal',
  used,
  webFont,
  characters: 5,
  faux: '',
  sample: 'words',
  box,
  ...over,
})
const finding = (selector: string | undefined, over: Partial<Schemas['SiteFinding']> = {}) => ({
  id: 1,
  code: 'faux-bold',
  title: 'The browser makes up a bold',
  severity: 'warning' as const,
  message: 'm',
  fix: 'f',
  page: 'p',
  state: 'open' as const,
  since: '2026-11-30T10:00:00Z',
  fresh: false,
  selector,
  ...over,
})
const page = (runs: Schemas['RunOnPage'][], findings: Schemas['SiteFinding'][]) =>
  ({ width: 1280, height: 800, runs, findings }) as Schemas['InspectedPage']

test('text is outlined once, by the font that most of it is set in', () => {
  const out = outlined(
    page(
      [
        run('h1', 'Skerrow Sans', true, { faux: 'bold' }),
        run('p', 'Brackmoor Sans, Arial', true),
        run('p', 'Brackmoor Sans', true),
        run('em', 'Inspection Serif', false),
        run('footer', 'Skerrow Sans', true, { box: { ...box, y: 900 } }),
      ],
      [],
    ),
  )
  expect(out.map((r) => [r.selector, r.name, r.mark])).toEqual([
    ['h1', 'Skerrow Sans (made up bold)', '0'],
    ['p', 'Brackmoor Sans', '1'],
    ['em', 'system font', 'system'],
  ])
})

test('findings are pinned where their text is, beside each other, and not where there is none', () => {
  const out = pinned(
    page(
      [run('h1', 'Skerrow Sans', true)],
      [finding('h1'), finding(undefined), finding('aside'), finding('h1', { id: 2 }), finding('h1', { state: 'gone' })],
    ),
  )
  expect(out.map((p) => [p.number, p.x, p.y])).toEqual([
    [1, 10, 20],
    [2, 44, 20],
  ])
})
