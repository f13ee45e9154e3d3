/** Builds the command line once, for Node, so that it need not compile itself at every start. */
import { defineConfig } from 'vite'

export default defineConfig({
  publicDir: false,
  logLevel: 'warn',
  build: { ssr: true, outDir: 'node_modules/.cache/plush-cli', emptyOutDir: true, minify: false, rollupOptions: { input: { main: 'cli/main.ts', 'decode-worker': 'cli/decode-worker.ts' }, output: { chunkFileNames: '[name].js' } } },
})
