import type { Schemas } from '../api/client'

/** What a person sees, as a form has it: no clients for all of them. */
export interface Limits {
  clients: number[]
  prices: boolean
  documents: boolean
  endsOn: string | null
}

export const noLimits = (): Limits => ({ clients: [], prices: true, documents: true, endsOn: null })

export const limitsOf = (p: Schemas['Person']): Limits => ({
  clients: p.clients.map((c) => c.id),
  prices: p.prices,
  documents: p.documents,
  endsOn: p.endsOn ?? null,
})

/** What is sent for a new person. */
export const asNew = (l: Limits): Partial<Schemas['NewPerson']> => ({
  clients: l.clients.length ? l.clients : undefined,
  prices: l.prices,
  documents: l.documents,
  endsOn: l.endsOn ?? undefined,
})

/** What is sent for a person whose limits change. */
export const asChange = (l: Limits): Schemas['PersonChange'] => ({
  ...(l.clients.length ? { clients: l.clients } : { allClients: true }),
  prices: l.prices,
  documents: l.documents,
  ...(l.endsOn ? { endsOn: l.endsOn } : { noEnd: true }),
})

/** What a person or a token sees, in words. */
export function sees(p: Pick<Schemas['Person'], 'limited' | 'clients' | 'prices' | 'documents'>) {
  const clients = p.limited ? p.clients.map((c) => c.name).join(', ') || 'no client' : 'all clients'
  return [clients, p.prices ? '' : 'no prices', p.documents ? '' : 'no documents'].filter(Boolean).join(', ')
}
