import react from '@vitejs/plugin-react'
import { createReadStream, existsSync } from 'node:fs'
import { defineConfig, type Plugin } from 'vite'
import { VitePWA } from 'vite-plugin-pwa'
import { ISOLATION_HEADERS } from './server/headers.ts'
import { DEMO_SONG_PATH } from './server/places.ts'

/** Serves the generated demo song while developing, as the real server does. */
const demoSong: Plugin = {
  name: 'demo-song',
  configureServer(server) {
    server.middlewares.use('/demo/slow-ferry.zip', (_request, response, next) => {
      if (!existsSync(DEMO_SONG_PATH)) return next()
      response.setHeader('Content-Type', 'application/zip')
      createReadStream(DEMO_SONG_PATH).pipe(response)
    })
  },
}

const SOUNDS = ['.wav', '.aif', '.aiff', '.mp3', '.m4a', '.aac', '.flac', '.ogg', '.oga', '.opus']

/** Everything the app is made of is kept by the browser, and nothing else: it starts, and works, without its server. */
const offline = VitePWA({
  strategies: 'generateSW',
  // The page registers it once it is idle, and takes a newer one when the singer says so.
  injectRegister: null,
  workbox: {
    globPatterns: ['**/*.{html,js,css,wasm,woff2,svg,png}'],
    maximumFileSizeToCacheInBytes: 8_000_000,
    navigateFallback: '/index.html',
    navigateFallbackDenylist: [/^\/demo\//],
    inlineWorkboxRuntime: true,
    sourcemap: false,
  },
  manifest: {
    name: 'Plush Layer',
    short_name: 'Plush Layer',
    description: 'Record, comp, stack and mix vocals over a finished beat, line by line.',
    start_url: '/',
    scope: '/',
    display: 'standalone',
    background_color: '#F6EEE4',
    theme_color: '#F6EEE4',
    icons: [
      { src: '/icon-192.png', sizes: '192x192', type: 'image/png' },
      { src: '/icon-512.png', sizes: '512x512', type: 'image/png' },
      { src: '/icon-512.png', sizes: '512x512', type: 'image/png', purpose: 'maskable' },
      { src: '/ribbons.svg', sizes: 'any', type: 'image/svg+xml' },
    ],
    file_handlers: [{ action: '/', accept: { 'application/zip': ['.zip'], 'audio/*': SOUNDS } }],
  },
})

export default defineConfig({
  plugins: [react(), demoSong, offline],
  worker: { format: 'es' },
  build: {
    target: 'es2022',
    sourcemap: true,
    chunkSizeWarningLimit: 1500,
    assetsInlineLimit: 0,
    // What schemas are told first lies in the chunk that they come from: chunks are run before what they were split from.
    rolldownOptions: { output: { codeSplitting: { groups: [{ name: 'schemas', test: /without-eval|node_modules[\\/]zod[\\/]/ }] } } },
  },
  server: { port: 5173, strictPort: true, headers: ISOLATION_HEADERS },
})
