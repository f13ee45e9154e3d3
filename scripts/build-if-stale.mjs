// Builds the app, unless what is built is newer than all that it is made of.
import { spawnSync } from 'node:child_process'
import { existsSync, statSync } from 'node:fs'
import { dirname, join } from 'node:path'
import { fileURLToPath } from 'node:url'
import { newest } from './newest.mjs'

const root = dirname(dirname(fileURLToPath(import.meta.url)))
// Written last.
const built = join(root, 'dist/sw.js')
const sources = ['src', 'public', 'index.html', 'server/headers.ts', 'server/places.ts', 'vite.config.ts', 'package-lock.json']
if (!existsSync(built) || statSync(built).mtimeMs < newest(root, sources)) {
  const vite = join(root, 'node_modules/vite/bin/vite.js')
  const { status } = spawnSync(process.execPath, [vite, 'build'], { cwd: root, stdio: 'inherit' })
  process.exit(status ?? 1)
}
