/** Sentences that use the letters of a language, by its code. */
export const pangrams: readonly { code: string; text: string }[] = [
  { code: 'en', text: 'The quick brown fox jumps over the lazy dog.' },
  { code: 'de', text: 'Zwölf Boxkämpfer jagen Viktor quer über den großen Sylter Deich.' },
  {
    code: 'fr',
    text: 'Portez ce vieux whisky au juge blond qui fume sur son île intérieure, à côté de l’alcôve ovoïde.',
  },
  {
    code: 'es',
    text:
      'El veloz murciélago hindú comía feliz cardillo y kiwi; la cigüeña tocaba el saxofón ' +
      'en el palenque de paja, ¿qué más?',
  },
  { code: 'it', text: 'Quel vituperabile xenofobo zelante assaggia il whisky ed esclama: alleluja!' },
  { code: 'pt', text: 'Luís argüia à Júlia que «brações, fé, chá, óxido, pôr, zângão» eram palavras do português.' },
  { code: 'nl', text: 'Pa’s wijze lynx bezag vroom het fikse aquaduct.' },
  { code: 'da', text: 'Quizdeltagerne spiste jordbær med fløde, mens cirkusklovnen Walther spillede på xylofon.' },
  { code: 'nb', text: 'Vår sære Zulu fra badeøya spilte jo whist og quickstep i min taxi.' },
  { code: 'sv', text: 'Flygande bäckasiner söka hwila på mjuka tuvor; quiz, xylofon, jazz och cykel därtill.' },
  { code: 'fi', text: 'Törkylempijävongahdus' },
  { code: 'is', text: 'Kæmi ný öxi hér, ykist þjófum nú bæði víl og ádrepa.' },
  { code: 'pl', text: 'Pchnąć w tę łódź jeża lub ośm skrzyń fig.' },
  { code: 'cs', text: 'Příliš žluťoučký kůň úpěl ďábelské ódy.' },
  { code: 'hu', text: 'Árvíztűrő tükörfúrógép' },
  { code: 'tr', text: 'Pijamalı hasta yağız şoföre çabucak güvendi.' },
  { code: 'el', text: 'Ξεσκεπάζω την ψυχοφθόρα βδελυγμία.' },
  { code: 'ru', text: 'Съешь же ещё этих мягких французских булок, да выпей чаю.' },
  { code: 'uk', text: 'Гей, хлопці, не вспію — на ґанку ваша файна їжа знищується бурундучком.' },
]
