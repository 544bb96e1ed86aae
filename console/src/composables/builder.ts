import type { Schemas } from '../api/client'

type Rules = Schemas['BuilderRules']

export const formats = ['woff2', 'woff', 'ttf', 'otf', 'eot', 'svg'] as const
export const fors = [
  { value: 'web', label: 'Web pages' },
  { value: 'app', label: 'An app' },
  { value: 'desktop', label: 'Design software' },
] as const
export const sends = [
  { value: 'all', label: 'All that are accepted' },
  { value: 'preferred', label: 'Preferred only' },
] as const
export const uploads = [
  { value: 'folder', label: 'The folder as a whole' },
  { value: 'one', label: 'One file at a time' },
  { value: 'face', label: 'All files of a face at a time' },
  { value: 'many', label: 'Many at once' },
  { value: 'project', label: 'Copied into a project' },
  { value: 'install', label: 'Installed by hand' },
] as const
export const namings = [
  { value: 'full', label: 'Exactly the full name' },
  { value: 'postscript', label: 'The PostScript name' },
  { value: 'hyphens', label: 'Lower case, digits and hyphens' },
  { value: 'underscores', label: 'Lower case, digits and underscores' },
  { value: 'as-is', label: 'Unchanged' },
] as const
export const shapes = [
  { value: 'weights', label: 'One family with weights' },
  { value: 'each', label: 'A family for each face' },
] as const
export const forms = [
  { value: 'none', label: 'No styles: fonts are chosen in forms' },
  { value: 'stylesheet', label: 'A stylesheet file' },
  { value: 'box', label: 'A box for styles' },
  { value: 'block', label: 'A box for HTML' },
  { value: 'script', label: 'A box for a script' },
  { value: 'linked', label: 'An uploaded stylesheet, loaded by its URL' },
  { value: 'urls', label: 'A table of names and URLs' },
  { value: 'apple', label: 'An app’s property list' },
  { value: 'android', label: 'An app’s font resources' },
] as const
export const loads = [
  { value: 'link', label: 'A link' },
  { value: 'import', label: 'An import rule' },
  { value: 'url', label: 'Its URL alone' },
] as const
export const values = [
  { value: 'full', label: 'Full name' },
  { value: 'family', label: 'Family' },
  { value: 'postscript', label: 'PostScript name' },
  { value: 'weight', label: 'Weight, a number' },
  { value: 'weight-word', label: 'Weight, a word' },
  { value: 'slope', label: 'Style' },
  { value: 'fallback', label: 'Fallback' },
] as const

/** A copy that shares nothing, of what may be reactive. */
const plain = (r: Rules): Rules => JSON.parse(JSON.stringify(r))
/** Rules to be edited: lists that may be left out are there. */
export const begun = (r: Rules): Rules => ({
  ...plain(r),
  roles: plain(r).roles ?? [],
  styles: { load: [], ...plain(r).styles },
})

/** Rules as they are sent: what is empty is skipped, as the schema wants it. */
export function tidy(r: Rules): Rules {
  const out = plain(r)
  if (!out.files.maxBytes) delete out.files.maxBytes
  if (!out.files.folder) delete out.files.folder
  if (out.form && !out.form.fields.length && !out.form.save) delete out.form
  if (!out.styles.where) delete out.styles.where
  if (!out.styles.load?.length) delete out.styles.load
  if (!out.urls.prefix) delete out.urls.prefix
  out.roles = (out.roles ?? [])
    .filter((x) => x.selector || x.choose)
    .map((x) => ({
      role: x.role,
      ...(x.selector ? { selector: x.selector } : {}),
      ...(x.choose ? { choose: x.choose } : {}),
    }))
  if (!out.roles.length) delete out.roles
  return out
}

/** Saves what was made as a file. */
export function saveBlob(content: Blob, name: string) {
  const a = document.createElement('a')
  a.href = URL.createObjectURL(content)
  a.download = name
  a.click()
  URL.revokeObjectURL(a.href)
}

/** Saves a text as a file. */
export const save = (name: string, text: string) => saveBlob(new Blob([text], { type: 'application/json' }), name)
