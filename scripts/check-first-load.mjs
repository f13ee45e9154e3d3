// What the first page must fetch before anything can be clicked: the scripts that index.html names, compressed.
import { readFileSync } from 'node:fs'
import { join } from 'node:path'
import { gzipSync } from 'node:zlib'

const MOST_KILOBYTES = 300
const html = readFileSync('dist/index.html', 'utf8')
const scripts = [...html.matchAll(/(?:src|href)="(\/assets\/[^"]+\.js)"/g)].map(match => match[1])
const bytes = scripts.reduce((sum, path) => sum + gzipSync(readFileSync(join('dist', path))).length, 0)
const kilobytes = Math.round(bytes / 1_000)
console.log(`first load: ${kilobytes} kB of compressed script in ${scripts.length} files (at most ${MOST_KILOBYTES})`)
if (scripts.length === 0 || kilobytes > MOST_KILOBYTES) process.exit(1)
