/** The headers every page is served with, built or in development. */

/** Cross-origin isolation; without it the browser gives no SharedArrayBuffer. */
export const ISOLATION_HEADERS = {
  'Cross-Origin-Opener-Policy': 'same-origin',
  'Cross-Origin-Embedder-Policy': 'require-corp',
  'Cross-Origin-Resource-Policy': 'same-origin',
} as const
