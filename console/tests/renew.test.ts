import { QueryClient } from '@tanstack/vue-query'
import { expect, test } from 'vitest'
import { renew } from '../src/composables/renew'

test('what is being read for the first time is read once more', async () => {
  const client = new QueryClient()
  const answers: ((count: number) => void)[] = []
  const first = client.fetchQuery({
    queryKey: ['imports', 1],
    queryFn: () => new Promise<number>((tell) => answers.push(tell)),
  })
  const query = client.getQueryCache().findAll()[0]
  const renewed = renew(client, ['imports'])
  answers[0](1)
  expect(await first).toBe(1)
  await renewed
  expect(query.state.isInvalidated).toBe(true)
})

test('what cannot be read does not hold the rest up', async () => {
  const client = new QueryClient()
  const first = client.fetchQuery({ queryKey: ['a'], retry: false, queryFn: () => Promise.reject(new Error('gone')) })
  await expect(first).rejects.toThrow('gone')
  await renew(client)
})
