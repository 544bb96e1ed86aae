import type { Schemas } from '../api/client'
import { forms, formats } from './builder'
import { label } from './show'

type Rules = Schemas['BuilderRules']

/** The questions that tell builders apart; each answer says which rules it fits. */
export const questions = [
  {
    key: 'for',
    asks: 'What are the fonts for?',
    answers: [
      { value: 'web', label: 'A website', fits: (r: Rules) => r.for === 'web' },
      { value: 'app', label: 'An app', fits: (r: Rules) => r.for === 'app' },
      { value: 'desktop', label: 'Design software on a computer', fits: (r: Rules) => r.for === 'desktop' },
    ],
  },
  {
    key: 'way',
    asks: 'How do font files get there?',
    answers: [
      {
        value: 'copy',
        label: 'I copy them to a server or into a project',
        fits: (r: Rules) => ['folder', 'project'].includes(r.files.upload),
      },
      {
        value: 'form',
        label: 'I upload them in a form that asks for names or weights',
        fits: (r: Rules) => ['one', 'face', 'many'].includes(r.files.upload) && !!r.form,
      },
      {
        value: 'assets',
        label: 'I upload them to a file or asset manager',
        fits: (r: Rules) => ['one', 'face', 'many'].includes(r.files.upload) && !r.form,
      },
      { value: 'install', label: 'People install them', fits: (r: Rules) => r.files.upload === 'install' },
    ],
  },
  {
    key: 'styles',
    asks: 'Where can you put styles or code?',
    answers: [
      { value: 'file', label: 'In my own stylesheet or project', fits: styled('stylesheet', 'apple', 'android') },
      { value: 'box', label: 'In one box for the styles of the whole site', fits: styled('box') },
      { value: 'block', label: 'In an HTML box on each page', fits: styled('block') },
      { value: 'script', label: 'In a box for a script', fits: styled('script') },
      { value: 'linked', label: 'A setting takes the URL of a stylesheet', fits: styled('linked') },
      { value: 'urls', label: 'A list takes names and font URLs', fits: styled('urls') },
      { value: 'none', label: 'Nowhere; fonts are chosen in settings', fits: styled('none') },
    ],
  },
  {
    key: 'formats',
    asks: 'Which file format does it accept?',
    answers: formats.slice(0, 4).map((f) => ({
      value: f as string,
      label: f.toUpperCase(),
      fits: (r: Rules) => r.files.formats.includes(f),
    })),
  },
  {
    key: 'url',
    asks: 'Do uploaded files get a URL that you can copy?',
    answers: [
      { value: 'after', label: 'Yes, after the upload', fits: (r: Rules) => r.urls.after },
      { value: 'own', label: 'I decide the path myself', fits: (r: Rules) => r.urls.relative || !!r.urls.prefix },
      {
        value: 'never',
        label: 'No',
        fits: (r: Rules) => !r.urls.after && !r.urls.relative && !r.urls.prefix,
      },
    ],
  },
] as const

function styled(...to: Rules['styles']['form'][]) {
  return (r: Rules) => to.includes(r.styles.form)
}

export type Answers = Partial<Record<(typeof questions)[number]['key'], string>>

export interface Suggestion {
  builder: Schemas['BuilderRecord']
  /** Answers that its rules fit, and that they do not. */
  fits: string[]
  misses: string[]
}

/** Builders by how many of the answers they fit, the best first; an answer that is left open counts for nobody. */
export function suggest(builders: Schemas['BuilderRecord'][], answers: Answers): Suggestion[] {
  const given = questions.flatMap((q) => {
    const found = q.answers.find((a) => a.value === answers[q.key])
    return found ? [found as { label: string; fits: (r: Rules) => boolean }] : []
  })
  return builders
    .map((builder) => ({
      builder,
      fits: given.filter((a) => a.fits(builder.rules)).map((a) => a.label),
      misses: given.filter((a) => !a.fits(builder.rules)).map((a) => a.label),
    }))
    .filter((s) => s.fits.length > 0 && s.misses.length <= 1)
    .sort((a, b) => a.misses.length - b.misses.length || b.builder.sites.length - a.builder.sites.length)
}

/** What a builder wants, in one line. */
export const inShort = (r: Rules) => `${r.files.formats.join(', ').toUpperCase()}; ${label(forms, r.styles.form)}`
