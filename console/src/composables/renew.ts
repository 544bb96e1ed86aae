import { type QueryClient, type QueryKey } from '@tanstack/vue-query'

/**
 * Has everything under a key read again, so that it shows what stands now. What is being read for the first
 * time is waited for before: reading it would only be joined, and it may have begun before the change.
 */
export async function renew(client: QueryClient, queryKey?: QueryKey) {
  const begun = client
    .getQueryCache()
    .findAll({ queryKey })
    .filter((q) => q.state.data === undefined)
  await Promise.all(begun.map((q) => q.promise?.catch(() => undefined)))
  await client.invalidateQueries({ queryKey })
}
