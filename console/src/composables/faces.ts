import type { Schemas } from '../api/client'

const slopes = ['upright', 'italic', 'oblique']

/** Faces by width, weight and slope. */
export const styleOrder = (faces: Schemas['Face'][]) =>
  [...faces].sort((a, b) => {
    const [x, y] = [a.metadata.style, b.metadata.style]
    return x.widthPercent - y.widthPercent || x.weight - y.weight || slopes.indexOf(x.slope) - slopes.indexOf(y.slope)
  })

/** The face that stands for a family in lists: next to an upright regular, of those that meet what was asked. */
export function spokesman(faces: Schemas['PreviewFace'][]): Schemas['PreviewFace'] | undefined {
  const rank = (p: Schemas['PreviewFace']) =>
    (p.meets ? 0 : 10_000) +
    Math.abs(p.weight - 400) +
    10 * Math.abs(p.width - 100) +
    (p.slope === 'upright' ? 0 : 1000)
  return [...faces].sort((a, b) => rank(a) - rank(b))[0]
}

/** What a page of a face is divided into. */
export const faceTabs = [
  { value: 'specimen', label: 'Specimen' },
  { value: 'characters', label: 'Characters' },
  { value: 'languages', label: 'Languages' },
  { value: 'features', label: 'Layout features' },
  { value: 'code', label: 'Names and code' },
  { value: 'formats', label: 'Formats' },
  { value: 'files', label: 'Files' },
  { value: 'changes', label: 'Subset and convert' },
  { value: 'fallback', label: 'Fallback metrics' },
  { value: 'metadata', label: 'Metadata' },
  { value: 'history', label: 'History' },
] as const
