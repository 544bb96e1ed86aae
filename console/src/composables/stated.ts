import { ref } from 'vue'
import { api, data, message, type Schemas } from '../api/client'

export type Stated = Schemas['StatedTerm']

/** The fields of a license in the words of its form. */
export const statedFields: Record<Stated['field'], string> = {
  'granted-to': 'Granted to',
  licensor: 'Licensor',
  reference: 'Reference',
  use: 'Use',
  'not-use': 'Not for',
  from: 'From',
  until: 'Until',
  pageViews: 'Page views a month',
  seats: 'Seats',
  apps: 'Apps',
  domain: 'Domain',
  price: 'Price',
}

/** Reads the terms that a license document states, for a person to confirm. */
export function useStated() {
  const found = ref<Schemas['StatedTerms']>()
  const unread = ref('')
  const reading = ref(false)
  let turn = 0
  async function ask(asked: Promise<Schemas['StatedTerms']>) {
    const mine = ++turn
    found.value = undefined
    unread.value = ''
    reading.value = true
    try {
      const read = await asked
      if (mine === turn) found.value = read
    } catch (e) {
      if (mine === turn) unread.value = message(e)
    } finally {
      if (mine === turn) reading.value = false
    }
  }
  return {
    found,
    unread,
    reading,
    clear: () => {
      turn++
      found.value = undefined
      unread.value = ''
      reading.value = false
    },
    /** Reads a file that a person chose. */
    read(file: File) {
      const body = new FormData()
      body.append('file', file)
      return ask(data(api.POST('/license-documents/read', { body: body as never })))
    },
    /** Reads a document that family document. */
    readFamilyDocument: (id: number) =>
      ask(data(api.GET('/family-documents/{id}/terms', { params: { path: { id } } }))),
  }
}

/** Reads an amount with its currency, as 180.00 EUR; undefined for what is none. */
export function priceIn(text: string) {
  const m = /^\s*(\d+(?:[.,]\d{1,2})?)\s*([A-Za-z]{3})\s*$/.exec(text)
  return m ? { price: Math.round(Number(m[1]!.replace(',', '.')) * 100), currency: m[2]!.toUpperCase() } : undefined
}
