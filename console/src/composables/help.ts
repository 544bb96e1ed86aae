import { marked } from 'marked'
import guide from '../../../docs/GUIDE.md?raw'

/** A chapter of the guide: from its heading to the next one of the same or a higher level. */
export interface Chapter {
  title: string
  level: number
  text: string
}

/** The chapters of a text in Markdown, those within others besides. */
export function chaptersOf(text: string): Chapter[] {
  const lines = text.split('\n')
  const heads: { at: number; level: number; title: string }[] = []
  let fenced = false
  lines.forEach((line, at) => {
    if (line.startsWith('```')) fenced = !fenced
    const found = fenced ? null : /^(#{2,3}) (.+)$/.exec(line)
    if (found) heads.push({ at, level: found[1]!.length, title: found[2]! })
  })
  return heads.map((h, i) => {
    const end = heads.slice(i + 1).find((o) => o.level <= h.level)?.at ?? lines.length
    return { title: h.title, level: h.level, text: lines.slice(h.at, end).join('\n').trim() }
  })
}

export const chapters = chaptersOf(guide)

/** The chapter for each page, by the beginning of its path; the first that fits counts. */
export const chapterFor: [path: RegExp, title: string][] = [
  [/^\/sites\/\d+\/roles/, 'Fonts and roles'],
  [/^\/sites\/\d+\/guide/, 'The style guide'],
  [/^\/sites\/\d+\/pack/, 'Build a pack'],
  [/^\/(sites\/\d+\/inspections|inspections)/, 'Inspect published pages'],
  [/^\/sites/, 'Sites'],
  [/^\/families\/\d+\/faces/, 'Look at a face'],
  [/^\/families\/\d+/, 'Look at a family'],
  [/^\/families/, 'Find a family'],
  [/^\/compare/, 'Find a family'],
  [/^\/imports/, 'Import fonts'],
  [/^\/guest/, 'What people see'],
  [/^\/gaps/, 'Missing details'],
  [/^\/register/, 'The license register'],
  [/^\/licenses/, 'Licenses'],
  [/^\/shortlists/, 'Shortlists'],
  [/^\/builders/, 'Builders'],
  [/^\/clients/, 'Clients'],
  [/^\/activity/, 'Activity'],
  [/^\/settings/, 'Sign in, people and tokens'],
  [/^\/start/, 'First steps'],
  [/^\/$/, 'What needs attention'],
]

/** The chapter of the guide for a page. */
export const chapterOf = (path: string) =>
  chapters.find((c) => c.title === chapterFor.find(([p]) => p.test(path))?.[1]) ?? chapters[0]!

/** A chapter as HTML. Links lead to chapters; links to other documents are their text alone. */
export function html(c: Chapter): string {
  const text = c.text.replace(/\[([^\]]+)\]\((?!#)[^)]*\)/g, '$1')
  return marked.parse(text, { async: false, gfm: true })
}
