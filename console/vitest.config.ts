import { defineConfig } from 'vitest/config'

// The reporter groups failures with Map.groupBy, which Node.js has from version 21 on.
const groups = Map as unknown as { groupBy?: (all: Iterable<unknown>, by: (one: unknown) => unknown) => unknown }
groups.groupBy ??= (all, by) => {
  const out = new Map<unknown, unknown[]>()
  for (const one of all) out.set(by(one), [...(out.get(by(one)) ?? []), one])
  return out
}

// The guide is read from beside the console.
export default defineConfig({
  server: { fs: { allow: ['..'] } },
  test: { environment: 'happy-dom', isolate: false, include: ['tests/**/*.test.ts'] },
})
