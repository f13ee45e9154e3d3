/** The headers every page is served with: isolation, so that threads can share memory, and a policy that lets nothing out. */
import { fileURLToPath } from 'node:url'

/** Cross-origin isolation; without it the browser gives no SharedArrayBuffer. */
export const ISOLATION_HEADERS = {
  'Cross-Origin-Opener-Policy': 'same-origin',
  'Cross-Origin-Embedder-Policy': 'require-corp',
  'Cross-Origin-Resource-Policy': 'same-origin',
} as const

/** Where the generated demo song lies. */
export const DEMO_SONG_PATH = fileURLToPath(new URL('../.demo/slow-ferry.zip', import.meta.url))
