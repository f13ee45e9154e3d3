// Sets up a fresh machine: the packages, and with --for-tests Debian's browser and the decoders that files are checked with. Does nothing
// where all is there.
import { execFileSync, execSync } from 'node:child_process'
import { createHash } from 'node:crypto'
import { existsSync, readFileSync, writeFileSync } from 'node:fs'

const run = command => execSync(command, { stdio: 'inherit' })
const STAMP = 'node_modules/.setup-stamp'
const lock = createHash('sha256').update(readFileSync('package-lock.json')).digest('hex')
if (!existsSync(STAMP) || readFileSync(STAMP, 'utf8') !== lock) {
  run('npm ci --no-audit --no-fund')
  writeFileSync(STAMP, lock)
}
if (process.argv.includes('--for-tests')) {
  const install = names => {
    const missing = names.filter(name => !existsSync(`/usr/bin/${name}`))
    if (missing.length === 0) return
    const isRoot = execFileSync('id', ['-u'], { encoding: 'utf8' }).trim() === '0'
    const sudo = isRoot ? '' : 'sudo '
    run(`${sudo}apt-get update -qq && ${sudo}env DEBIAN_FRONTEND=noninteractive apt-get install -y -qq --no-install-recommends ${missing.join(' ')}`)
  }
  install(['chromium'])
  try {
    install(['ffmpeg', 'flac', 'midicsv'])
  } catch {
    console.warn('ffmpeg, flac and midicsv could not be installed: what opens our files with them is skipped.')
  }
}
