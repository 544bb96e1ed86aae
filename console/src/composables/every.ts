/** What of a query in pages is needed to read it to its end. */
interface Paged {
  hasNextPage: { value: boolean }
  fetchNextPage: () => Promise<{ isError: boolean; error: unknown }>
}

/** Reads all pages of a query; throws what went wrong with one, and reads no further then. */
export async function everyPage({ hasNextPage, fetchNextPage }: Paged) {
  while (hasNextPage.value) {
    const page = await fetchNextPage()
    if (page.isError) throw page.error
  }
}
