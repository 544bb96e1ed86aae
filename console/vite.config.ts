import vue from '@vitejs/plugin-vue'
import { defineConfig } from 'vite'

// The built console is served by the service at its root; while developing,
// calls of the API go to a service on its default port.
export default defineConfig({
  plugins: [
    // A line break between two words is a space, as in HTML.
    vue({ template: { compilerOptions: { whitespace: 'preserve' } } }),
  ],
  build: { outDir: 'dist', emptyOutDir: true, chunkSizeWarningLimit: 1500, assetsInlineLimit: 0 },
  server: { fs: { allow: ['..'] }, proxy: { '/api': 'http://127.0.0.1:8480' } },
})
