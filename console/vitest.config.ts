import { defineConfig } from 'vitest/config'

// The guide is read from beside the console.
export default defineConfig({
  server: { fs: { allow: ['..'] } },
  test: { environment: 'happy-dom', isolate: false, include: ['tests/**/*.test.ts'] },
})
