// Runs the command line; builds it first if its sources are newer.
import { spawnSync } from 'node:child_process'
import { existsSync, renameSync, rmSync, statSync } from 'node:fs'
import { dirname, join } from 'node:path'
import { fileURLToPath } from 'node:url'
import { newest } from './newest.mjs'

const root = dirname(dirname(fileURLToPath(import.meta.url)))
const folder = join(root, 'node_modules/.cache/plush-cli')
const built = join(folder, 'main.js')

const changed = newest(root, ['src/core', 'cli', 'package-lock.json'])
if (!existsSync(built) || statSync(built).mtimeMs < changed) {
  // Beside the old one, and put in its place as a whole: another call may be building, or running, at the same time.
  const beside = `${folder}-${process.pid}`
  const vite = join(root, 'node_modules/vite/bin/vite.js')
  const { status, stderr } = spawnSync(process.execPath, [vite, 'build', '--config', 'vite.cli.config.ts', '--outDir', beside], { cwd: root, encoding: 'utf8' })
  if (status !== 0) {
    console.error(stderr)
    process.exit(1)
  }
  rmSync(folder, { recursive: true, force: true })
  try {
    renameSync(beside, folder)
  } catch {
    // The other call was quicker.
    rmSync(beside, { recursive: true })
  }
}
await import(built)
