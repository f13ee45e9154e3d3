/**
 * The main story in Debian's Firefox, over WebDriver BiDi: a beat dropped, heard, a template laid, two takes of the practice singer, a comp, the mix, files
 * that another decoder opens, and the app once more after a reload. What is missing (the browser, a sound server for a machine without a sound card) is
 * installed with apt-get.
 */
import puppeteer, { type Page } from 'puppeteer-core'
import assert from 'node:assert/strict'
import { execFileSync, execSync, spawn } from 'node:child_process'
import { existsSync, mkdtempSync, readdirSync, rmSync, statSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { beatPath } from '../e2e/support'
import { makeApp } from '../server/app'

const PORT = 4631
const FIREFOX = process.env.FIREFOX ?? '/usr/bin/firefox-esr'
const WAIT_MILLISECONDS = 90_000

/** Whatever a page does, the browser answers by then. */
const ANSWER_MILLISECONDS = 45_000
const MOST_TRIES = 4
/** A headless Firefox waits for its sound server for good now and then when a recording begins, its own threads for each other. */
class StoodStill extends Error {}

const said = (what: string) => console.log(`ok  ${what}`)

console.log('The story in Firefox.')
// Who names a browser has what it needs.
if (!process.env.FIREFOX) install(['firefox-esr', 'pulseaudio', 'ffmpeg'])
const server = makeApp().listen(PORT)
let folder = ''
for (let tries = 1; ; tries++) {
  try {
    await runOnce()
    break
  } catch (error) {
    if (!(error instanceof StoodStill) || tries === MOST_TRIES) throw error
    console.log('The browser itself stood still; once more, in a new one.')
  }
}
server.close()
server.closeAllConnections()
process.exit(0)

async function runOnce(): Promise<void> {
  folder = mkdtempSync(join(tmpdir(), 'plush-firefox-'))
  const sound = spawn(
    'pulseaudio',
    ['-n', '--exit-idle-time=-1', '--load=module-native-protocol-unix', '--load=module-null-sink sink_name=quiet', '--load=module-always-sink'],
    { env: { ...process.env, XDG_RUNTIME_DIR: folder }, stdio: 'ignore' },
  )
  const browser = await puppeteer.launch({
    browser: 'firefox',
    executablePath: FIREFOX,
    headless: true,
    protocolTimeout: ANSWER_MILLISECONDS,
    env: { ...process.env, XDG_RUNTIME_DIR: folder },
    extraPrefsFirefox: {
      'media.navigator.permission.disabled': true,
      'media.navigator.streams.fake': true,
      'media.autoplay.default': 0,
      'media.autoplay.blocking_policy': 0,
      'browser.download.folderList': 2,
      'browser.download.dir': folder,
      'browser.download.useDownloadDir': true,
      'browser.helperApps.neverAsk.saveToDisk': 'application/octet-stream',
    },
  })
  try {
    const page = await browser.newPage()
    await page.setViewport({ width: 1280, height: 800 })
    const complaints: string[] = []
    page.on('pageerror', error => complaints.push((error as Error).message))
    await story(page)
    assert.deepEqual(complaints, [], 'the page complained')
    said('no complaint of the page')
    console.log(`All of it works in ${await browser.version()}.`)
  } catch (error) {
    throw isUnanswered(error) ? new StoodStill() : error
  } finally {
    // One that stands still does not close.
    browser.process()?.kill('SIGKILL')
    sound.kill()
    rmSync(folder, { recursive: true, force: true, maxRetries: 5 })
  }
}

function isUnanswered(error: unknown): boolean {
  return error instanceof Error && /timed out|Target closed/.test(error.message)
}

async function story(page: Page): Promise<void> {
  await page.goto(`http://localhost:${PORT}/`)
  assert.equal(await page.evaluate(() => crossOriginIsolated), true)
  const drop = await page.waitForSelector('input[type=file]')
  await drop!.uploadFile(beatPath())
  await until(page, 'the tempo is heard', () => /^92\.\d+ bpm/.test(document.querySelector('h1')?.textContent ?? ''))
  said('a beat is dropped and heard')

  await press(page, 'Go and sing')
  await press(page, 'Words')
  await page.type('textarea', 'Slow ferry, carry the lights\nover the black and the blue')
  await press(page, 'Lay them over the bars')
  await until(page, 'two lines', () => document.querySelectorAll('[data-line]').length === 2)
  said('a template is laid, and words over the bars')

  await press(page, 'Practice singer')
  // Where the browser lets no sound start yet, the page asks for one click.
  await page.evaluate(() =>
    [...document.querySelectorAll('button')].find(button => button.innerText.trim() === 'Let it sound')?.setAttribute('data-pressed', 'sound'),
  )
  if (await page.$('[data-pressed=sound]')) await page.click('[data-pressed=sound]')
  await page.click('[data-line]')
  await until(page, 'ready to record', () => /Will record/.test(document.body.textContent ?? ''))
  for (const takes of [1, 2]) {
    await page.keyboard.press('r')
    await until(
      page,
      `take ${takes}`,
      wanted => document.querySelectorAll('[data-take]').length === wanted && /Pass \d:\s*Star/.test(document.body.innerText),
      takes,
    )
  }
  said('two takes are sung, by the practice singer')

  await press(page, 'Comp')
  await until(page, 'the takes on the bench', () => location.pathname.endsWith('/comp') && /Pass \d is picked/.test(document.body.innerText))
  await page.keyboard.press('ArrowDown')
  await page.keyboard.press('p')
  await until(page, 'a pick', () => /Undo “pick/.test(document.body.innerText))
  said('one is picked in Comp')

  await press(page, 'Mix')
  const before = await position(page)
  await page.keyboard.press(' ' as never)
  await until(page, 'the song plays', from => (document.querySelector('[role=timer]')?.textContent ?? '') !== from, before)
  await page.keyboard.press(' ' as never)
  said('the mix plays')

  await press(page, 'Deliver')
  await press(page, 'Vocals alone', true)
  await press(page, 'Beat alone', true)
  const beatSeconds = secondsOf(beatPath())
  let expectedSeconds: number | null = null
  for (const [format, ending] of [
    ['WAV', 'wav'],
    ['MP3', 'mp3'],
    ['Opus', 'opus'],
  ] as const) {
    await press(page, format, true)
    await press(page, 'Render final mix')
    await until(page, ending, wanted => [...document.querySelectorAll('[data-delivery$=".' + wanted + '"] a')].length > 0, ending)
    await page.evaluate(wanted => (document.querySelector('[data-delivery$=".' + wanted + '"] a') as HTMLElement).click(), ending)
    const path = await downloaded(ending)
    const seconds = secondsOf(path)
    // What rings on comes after the beat; no format plays longer than another.
    expectedSeconds ??= seconds
    assert.ok(seconds >= beatSeconds && seconds < beatSeconds + 5 && Math.abs(seconds - expectedSeconds) < 0.001, `${path} lasts ${seconds} s`)
    said(`the mix is delivered as ${format}: ${seconds.toFixed(1)} s by another decoder`)
  }

  await page.reload()
  await until(page, 'the files are there again', () => document.querySelectorAll('[data-delivery]').length === 3)
  await press(page, 'Shelf: all songs')
  await until(page, 'the song on the Shelf', () => document.querySelectorAll('article').length === 1)
  said('after a reload all is there')
}

/** As it plays. */
function secondsOf(path: string): number {
  const samples = execFileSync('ffmpeg', ['-v', 'error', '-i', path, '-ac', '1', '-ar', '48000', '-f', 's16le', '-'], { maxBuffer: 1e9 })
  return samples.length / 2 / 48_000
}

/** The first button or link that is called so, or whose name begins so. */
async function press(page: Page, name: string, exact = false): Promise<void> {
  await until(
    page,
    `“${name}” can be pressed`,
    ([wanted, whole]) => {
      const found = [...document.querySelectorAll<HTMLElement>('button, a')].find(element => {
        const called = (element.getAttribute('aria-label') ?? element.innerText).trim()
        return (whole ? called === wanted : called.startsWith(wanted)) && !(element as HTMLButtonElement).disabled
      })
      if (!found) return false
      for (const marked of document.querySelectorAll('[data-pressed]')) marked.removeAttribute('data-pressed')
      found.setAttribute('data-pressed', '')
      return true
    },
    [name, exact] as const,
  )
  await page.click('[data-pressed]')
}

function position(page: Page): Promise<string> {
  return page.evaluate(() => document.querySelector('[role=timer]')?.textContent ?? '')
}

async function until<A>(page: Page, what: string, isSo: (argument: A) => boolean, argument?: A): Promise<void> {
  const end = Date.now() + WAIT_MILLISECONDS
  while (Date.now() < end) {
    const isThere = await page.evaluate(isSo as never, argument as never).catch((error: unknown) => {
      if (isUnanswered(error)) throw error
      return false
    })
    if (isThere) return
    await new Promise(resolve => setTimeout(resolve, 250))
  }
  await page.screenshot({ path: join(tmpdir(), 'plush-firefox.png') })
  assert.fail(`in vain was waited for: ${what} (a picture is in ${join(tmpdir(), 'plush-firefox.png')})`)
}

async function downloaded(ending: string): Promise<string> {
  const end = Date.now() + WAIT_MILLISECONDS
  while (Date.now() < end) {
    const name = readdirSync(folder).find(file => file.endsWith(` - mix.${ending}`) && statSync(join(folder, file)).size > 0)
    if (name && !readdirSync(folder).some(file => file.endsWith('.part'))) return join(folder, name)
    await new Promise(resolve => setTimeout(resolve, 250))
  }
  return assert.fail(`no ${ending} was downloaded, but: ${readdirSync(folder).join(', ')}`)
}

function install(names: readonly string[]): void {
  const missing = names.filter(name => !existsSync(`/usr/bin/${name}`))
  if (missing.length === 0) return
  execSync(`apt-get update -qq && DEBIAN_FRONTEND=noninteractive apt-get install -y -qq --no-install-recommends ${missing.join(' ')}`, { stdio: 'inherit' })
}
