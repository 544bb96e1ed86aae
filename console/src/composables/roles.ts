import { api, data, type Schemas } from '../api/client'

/** The known roles, as people choose them. */
export const roles = [
  { value: 'body', label: 'Body text' },
  { value: 'heading-1', label: 'Heading 1' },
  { value: 'heading-2', label: 'Heading 2' },
  { value: 'heading-3', label: 'Heading 3' },
  { value: 'heading-4', label: 'Heading 4' },
  { value: 'heading-5', label: 'Heading 5' },
  { value: 'heading-6', label: 'Heading 6' },
  { value: 'links', label: 'Links' },
  { value: 'buttons', label: 'Buttons' },
  { value: 'navigation', label: 'Navigation' },
  { value: 'captions', label: 'Captions' },
  { value: 'lists', label: 'Lists' },
  { value: 'quotes', label: 'Quotes' },
  { value: 'code', label: 'Code' },
] as const

export const slopes = [
  { value: 'normal', label: 'Upright' },
  { value: 'italic', label: 'Italic' },
  { value: 'oblique', label: 'Oblique' },
] as const

export const weights = [
  { value: 100, label: '100 Thin' },
  { value: 200, label: '200 ExtraLight' },
  { value: 300, label: '300 Light' },
  { value: 400, label: '400 Regular' },
  { value: 500, label: '500 Medium' },
  { value: 600, label: '600 SemiBold' },
  { value: 700, label: '700 Bold' },
  { value: 800, label: '800 ExtraBold' },
  { value: 900, label: '900 Black' },
]

/** How large a role is shown, pixels. */
export function sizeOf(role: string): number {
  return (
    {
      'heading-1': 40,
      'heading-2': 32,
      'heading-3': 26,
      'heading-4': 22,
      'heading-5': 19,
      'heading-6': 17,
      captions: 14,
      code: 16,
    }[role] ?? 19
  )
}

/** The assignments of a site as they are sent. */
export const placed = (s: Schemas['Site']): Schemas['RoleAssignments'] => ({
  assignments: s.roles.map((r) => r.assignment),
  replacements: s.replacements,
})

/** Says what families do on a site, in the place of what they did when it was read. */
export const place = (s: Schemas['Site'], body: Schemas['RoleAssignments']) =>
  data(
    api.PUT('/sites/{id}/roles', {
      params: { path: { id: s.id }, header: { 'If-Match': s.etag } },
      body,
    }),
  )
