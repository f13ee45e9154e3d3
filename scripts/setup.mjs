// Sets up a fresh machine: the packages, and with --chromium Debian's browser for the tests. Does nothing where all is there.
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
if (process.argv.includes('--chromium') && !existsSync('/usr/bin/chromium')) {
  const isRoot = execFileSync('id', ['-u'], { encoding: 'utf8' }).trim() === '0'
  const sudo = isRoot ? '' : 'sudo '
  run(`${sudo}apt-get update -qq && ${sudo}env DEBIAN_FRONTEND=noninteractive apt-get install -y -qq --no-install-recommends chromium`)
}
