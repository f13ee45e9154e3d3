// Runs the command line; builds it first if its sources are newer.
import { spawnSync } from 'node:child_process'
import { existsSync, readdirSync, statSync } from 'node:fs'
import { dirname, join } from 'node:path'
import { fileURLToPath } from 'node:url'

const root = dirname(dirname(fileURLToPath(import.meta.url)))
const built = join(root, 'node_modules/.cache/plush-cli/main.js')

const newest = folder => Math.max(...readdirSync(join(root, folder), { recursive: true }).map(file => statSync(join(root, folder, file)).mtimeMs))
const changed = Math.max(newest('src/core'), newest('cli'), statSync(join(root, 'package-lock.json')).mtimeMs)
if (!existsSync(built) || statSync(built).mtimeMs < changed) {
  const { status, stderr } = spawnSync(process.execPath, [join(root, 'node_modules/vite/bin/vite.js'), 'build', '--config', 'vite.cli.config.ts'], {
    cwd: root,
    encoding: 'utf8',
  })
  if (status !== 0) {
    console.error(stderr)
    process.exit(1)
  }
}
await import(built)
