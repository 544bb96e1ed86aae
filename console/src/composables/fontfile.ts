import { base } from '../api/client'

const fonts = new Map<string, FontFace>()

/** The name under which a page has a file of the catalog as a font. */
export const fontName = (fileId: number, place: number) => `crate-file-${fileId}-${place}`

/** Loads a file of the catalog as a font, once for the page, whatever shows it. */
export function loadFont(fileId: number, format: string, place: number) {
  const family = fontName(fileId, place)
  let face = fonts.get(family)
  if (!face) {
    // A browser takes no face out of a collection and reads no EOT; the service does.
    const foreign = format === 'ttc' || format === 'eot' || place > 0
    face = new FontFace(family, `url(${base}/files/${fileId}/content${foreign ? `?format=woff2&place=${place}` : ''})`)
    fonts.set(family, face)
    document.fonts.add(face)
  }
  return face.load()
}
