import type { Schemas } from '../api/client'

/** A recipe as it stands in a form. */
export interface Draft {
  keep: string[]
  text: string
  features: string
  instance: string
  at: Record<string, number | null | undefined>
  pinned: string
  family: string
  retype: boolean
  rounding: 'needed' | 'fine' | 'whole'
  split: string[]
  against: string[]
  language: string
  alike: boolean
}

/** How many groups of letters a fallback font has where lines are to break alike. */
export const groups = 24

export function draftOf(r?: Schemas['Recipe']): Draft {
  return {
    keep: [...(r?.subset?.keep ?? [])],
    text: r?.subset?.text ?? '',
    features: r?.subset?.features?.[0] ?? 'keep',
    instance: r?.instance?.named ?? '',
    at: {},
    pinned: Object.entries(r?.instance?.at ?? {})
      .map(([tag, at]) => `${tag}=${at}`)
      .join(', '),
    family: r?.rename?.family ?? '',
    retype: r?.toTrueType ?? false,
    rounding: r?.fine ? 'fine' : r?.whole ? 'whole' : 'needed',
    split: [...(r?.split ?? [])],
    against: [...(r?.fallback?.against ?? [])],
    language: r?.fallback?.language || 'en',
    alike: (r?.fallback?.groups ?? 0) > 0,
  }
}

/** The recipe a form asks for; nothing where it asks for nothing. */
export function recipeOf(d: Draft): Schemas['Recipe'] {
  const r: Schemas['Recipe'] = {}
  if (d.keep.length || d.text)
    r.subset = { keep: d.keep, text: d.text, features: d.features === 'keep' ? [] : [d.features] }
  const at: Record<string, string> = {}
  for (const [tag, value] of Object.entries(d.at))
    if (value !== null && value !== undefined && !d.instance) at[tag] = String(value)
  for (const one of d.pinned.split(',')) {
    const [tag, value] = one.split('=').map((s) => s.trim())
    if (tag && value) at[tag] = value
  }
  if (d.instance || Object.keys(at).length) r.instance = { at, named: d.instance || undefined }
  if (d.family.trim()) r.rename = { family: d.family.trim() }
  if (d.retype) r.toTrueType = true
  if (d.rounding !== 'needed' && (r.instance || r.toTrueType)) r[d.rounding] = true
  if (d.split.length) r.split = d.split
  if (d.against.length) r.fallback = { against: d.against, language: d.language, groups: d.alike ? groups : 0 }
  return r
}
