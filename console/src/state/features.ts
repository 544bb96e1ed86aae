/** What layout features do, in words, by their OpenType tags. */
const words: Record<string, string> = {
  aalt: 'all alternates', afrc: 'stacked fractions', c2sc: 'small capitals from capitals', calt: 'alternates by context', case: 'forms for capitals',
  ccmp: 'composing letters', clig: 'ligatures by context', cpsp: 'spacing of capitals', cswh: 'swashes by context', curs: 'cursive joining', dlig: 'rare ligatures',
  dnom: 'denominators', fina: 'final forms', frac: 'fractions', fwid: 'full widths', half: 'half forms', halt: 'half widths by spacing', hist: 'historical forms',
  hwid: 'half widths', init: 'initial forms', isol: 'isolated forms', kern: 'kerning', liga: 'ligatures', lnum: 'lining figures', locl: 'forms by language',
  mark: 'placing marks', medi: 'medial forms', mkmk: 'marks on marks', nalt: 'annotation forms', numr: 'numerators', onum: 'old-style figures', ordn: 'ordinals',
  ornm: 'ornaments', palt: 'proportional widths', pcap: 'petite capitals', pnum: 'proportional figures', rlig: 'required ligatures', ruby: 'ruby forms',
  salt: 'stylistic alternates', sinf: 'scientific inferiors', smcp: 'small capitals', subs: 'subscripts', sups: 'superscripts', swsh: 'swashes',
  titl: 'titling forms', tnum: 'figures of one width', unic: 'unicase', vert: 'vertical forms', vkrn: 'vertical kerning', vrt2: 'vertical forms and turning', zero: 'slashed zero',
}

export function feature(tag: string): string {
  const set = /^ss(\d\d)$/.exec(tag)
  if (set) return `stylistic set ${Number(set[1])}`
  const variant = /^cv(\d\d)$/.exec(tag)
  if (variant) return `character variant ${Number(variant[1])}`
  return words[tag.trim()] ?? ''
}
