// Runs every command of the README as far as its first output. Needs the build and the demo song.
import { spawn } from 'node:child_process'
import { mkdtempSync, readFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { stripVTControlCharacters } from 'node:util'

const folder = mkdtempSync(join(tmpdir(), 'plush-commands-'))
const file = name => join(folder, name)
const DEMO = '.demo/slow-ferry.zip'
const take = file('take.wav')

/** By the README's words: what is typed, and what must come. In this order: some use what others make. */
const PLUSH = [
  ['npm run -s plush', `sing ${take} --seed 3 --take 2`, null],
  ['npm run -s plush', `analyse ${take}`, /^\[/],
  ['npm run -s plush', `voice ${take}`, /^\[/],
  ['npm run -s plush', `seams ${take} ${take}`, /^\{"seams"/],
  ['npm run -s plush', `align ${take} ${take} --out ${file('aligned.wav')}`, /^\{"lead"/],
  ['npm run -s plush', `part ${take} --key "F minor" --part third-below --out ${file('part.mid')}`, /^\{"file"/],
  ['npm run -s plush', `made ${take} --notes ${file('part.mid')} --out ${file('made.wav')}`, /^\{"file"/],
  ['npm run -s plush', `decode ${take} --out ${file('decoded.wav')}`, null],
  ['npm run -s plush', `render ${DEMO} --out ${file('mix.wav')} --only vocals --rate 44100`, /LUFS/],
  ['npm run -s plush', `render ${DEMO} --stems ${file('stems')}`, /beat\.wav: .*LUFS/],
  ['npm run -s plush', `deliver ${DEMO} --out ${file('files')} --part mix --format mp3 --range 5-6`, /"kind": "mp3"/],
  ['npm run -s plush', `beside ${DEMO} --out ${file('files')}`, /notes\.mid/],
  ['npm run -s plush', `template --ours ${file('templates')}`, /Choir of one/],
  ['npm run -s plush', 'effect --list', /"kind": "compressor"/],
  ['npm run -s plush', `effect echo ${take} --out ${file('echo.wav')} --tail 2`, null],
]
/** They may set up and build: everything else waits for them. */
const FIRST = [
  ['npm run demo', null, /Plush Layer is at http/, { PORT: '4620' }],
  ['npm run -s plush', `demo-song ${DEMO} --if-stale`, null],
]
/** The others need nothing of each other: they go on beside the command line's. */
const NPM = [
  ['npm run dev', null, /localhost:5173/],
  ['npm run screenshots', null, /\.png/, { SCREENSHOTS: folder }],
  ['npm run check:loopback', null, /set LOOPBACK to a folder/],
  ['npm run e2e:firefox', null, /The story in Firefox/, { FIREFOX: '/no/such/browser' }],
  ['npm run bench', null, /real time/],
  ['npm run bench', '--beat', /drop to its facts/],
  ['npm run bench', '--comp', /60 takes/],
  ['npm run bench', '--booth', /recording/],
]
const MOST_SECONDS = 180

const readme = readFileSync('README.md', 'utf8')
const named = [...new Set(readme.match(/npm run (?:-s )?[a-z0-9:]+/g))].filter(command => !/npm run (check|unit|e2e)$/.test(command))
const forgotten = named.filter(command => ![...FIRST, ...PLUSH, ...NPM].some(([known]) => known === command))
if (forgotten.length > 0) fail(`the README names commands that are not checked: ${forgotten.join(', ')}`)

await runAll(FIRST)
await Promise.all([runAll(PLUSH), runAll(NPM)])
process.exit(0)

async function runAll(commands) {
  for (const [command, options, expected, environment = {}] of commands) {
    const words = [command, ...(options ? ['--', options] : [])].join(' ')
    const began = Date.now()
    const outcome = await run(words, expected, environment)
    if (outcome !== null) fail(`${words}: ${outcome}`)
    console.log(`ok   ${words} (${((Date.now() - began) / 1_000).toFixed(1)} s)`)
  }
}

/** Null once the expected output has come (or, where none is expected, the command has ended well); else what came instead. */
function run(words, expected, environment) {
  const child = spawn(words, { shell: true, detached: true, stdio: ['ignore', 'pipe', 'pipe'], env: { ...process.env, ...environment } })
  let output = ''
  return new Promise(resolve => {
    const settle = outcome => {
      clearTimeout(timer)
      try {
        process.kill(-child.pid, 'SIGKILL')
      } catch {
        // It has ended by itself.
      }
      resolve(outcome)
    }
    const timer = setTimeout(() => settle(`nothing like ${expected} within ${MOST_SECONDS} s: ${output.slice(-800)}`), MOST_SECONDS * 1_000)
    const look = data => {
      // A machine that asks for colours gets them in the middle of an address.
      output += stripVTControlCharacters(String(data))
      if (expected?.test(output)) settle(null)
    }
    child.stdout.on('data', look)
    child.stderr.on('data', look)
    child.on('close', code => settle(expected === null && code === 0 ? null : `ended with ${code}: ${output.slice(-800)}`))
  })
}

function fail(why) {
  console.error(`FAIL ${why}`)
  process.exit(1)
}
