import react from '@vitejs/plugin-react'
import { createReadStream, existsSync } from 'node:fs'
import { defineConfig, type Plugin } from 'vite'
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

export default defineConfig({
  plugins: [react(), demoSong],
  worker: { format: 'es' },
  build: { target: 'es2022', sourcemap: true, chunkSizeWarningLimit: 1500, assetsInlineLimit: 0 },
  server: { port: 5173, strictPort: true, headers: ISOLATION_HEADERS },
})
