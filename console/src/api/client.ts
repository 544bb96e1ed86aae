import createClient, { type Middleware } from 'openapi-fetch'
import type { components, paths } from './schema'

export type Schemas = components['schemas']

/** What the service says went wrong, in its words. */
export class ProblemError extends Error {
  constructor(readonly problem: Schemas['Problem']) {
    super(problem.detail)
  }
}

const raise: Middleware = {
  async onResponse({ response }) {
    if (response.ok) return undefined
    let problem: Schemas['Problem']
    try {
      problem = await response.clone().json()
    } catch {
      problem = {
        type: 'about:blank',
        title: 'Error',
        status: response.status,
        code: 'unreadable',
        detail: `The service answered ${response.status} and nothing readable. Retry.`,
      }
    }
    throw new ProblemError(problem)
  },
  onError() {
    return new Error('The service cannot be reached. Check that it is running, then try again.')
  },
}

export const base = '/api/v1'
export const api = createClient<paths>({ baseUrl: base })
api.use(raise)

/** The data of an answer; errors were raised before. */
export async function data<T>(call: Promise<{ data?: T }>): Promise<T> {
  return (await call).data as T
}

export function message(e: unknown): string {
  return e instanceof Error ? e.message : String(e)
}
