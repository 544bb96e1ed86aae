import type { Schemas } from '../api/client'

type Page = Schemas['InspectedPage']

/** Text of a page with a place in its picture, and which mark its font has there. */
export function outlined(page: Page) {
  const seen = new Set<string>()
  const marks = new Map<string, number>()
  const out: { selector: string; name: string; mark: string; box: Schemas['BoxOnPage'] }[] = []
  for (const r of page.runs) {
    if (!r.box || r.box.width <= 0 || r.box.y >= page.height || seen.has(r.selector)) continue
    seen.add(r.selector)
    const family = r.used.split(', ')[0]
    if (r.webFont && !marks.has(family)) marks.set(family, marks.size % 4)
    out.push({
      selector: r.selector,
      name: (r.webFont ? family : 'system font') + (r.faux ? ` (made up ${r.faux})` : ''),
      mark: r.webFont ? String(marks.get(family)) : 'system',
      box: r.box,
    })
  }
  return out
}

/** Findings with a place in the picture, numbered as they come; several at one place stand beside each other. */
export function pinned(page: Page) {
  const boxes = new Map(page.runs.flatMap((r) => (r.box ? [[r.selector, r.box] as const] : [])))
  const taken = new Map<string, number>()
  const out: { number: number; finding: Schemas['SiteFinding']; x: number; y: number }[] = []
  for (const finding of page.findings) {
    const box = finding.selector && boxes.get(finding.selector)
    if (!box || box.y >= page.height || finding.state === 'gone') continue
    const beside = taken.get(finding.selector!) ?? 0
    taken.set(finding.selector!, beside + 1)
    out.push({ number: out.length + 1, finding, x: box.x + beside * 34, y: box.y })
  }
  return out
}
