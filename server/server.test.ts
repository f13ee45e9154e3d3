import { afterAll, beforeAll, expect, jest, test } from '@jest/globals'
import { mkdirSync, mkdtempSync, rmSync, writeFileSync } from 'node:fs'
import { request, type IncomingHttpHeaders, type Server } from 'node:http'
import type { AddressInfo } from 'node:net'
import { dirname, join } from 'node:path'
import { makeApp } from './app'
import { BUILT_PATH, DEMO_SONG_PATH } from './places'

jest.mock('./places', () => {
  const folder = join(mkdtempSync('/tmp/plush-server-'), '/')
  return { BUILT_PATH: `${folder}dist/`, DEMO_SONG_PATH: `${folder}.demo/slow-ferry.zip` }
})

const folder = dirname(BUILT_PATH)
let server: Server

beforeAll(async () => {
  mkdirSync(`${BUILT_PATH}assets`, { recursive: true })
  writeFileSync(`${BUILT_PATH}index.html`, '<meta property="csp-nonce" nonce="__CSP_NONCE__">')
  writeFileSync(`${BUILT_PATH}assets/app-1a2b.js`, 'export {}')
  writeFileSync(`${folder}/secret.json`, '{"secret":true}')
  await new Promise<void>(listens => (server = makeApp().listen(0, '127.0.0.1', () => listens())))
})
afterAll(() => {
  server.close()
  rmSync(folder, { recursive: true })
})

/** As typed: nothing of the path is tidied before it is sent. */
function get(path: string): Promise<{ status: number; headers: IncomingHttpHeaders; text: string }> {
  return new Promise((resolve, reject) => {
    const { port } = server.address() as AddressInfo
    const asked = request({ host: '127.0.0.1', port, path }, response => {
      let text = ''
      response.on('data', (data: Buffer) => (text += data.toString()))
      response.on('end', () => resolve({ status: response.statusCode!, headers: response.headers, text }))
    })
    asked.on('error', reject).end()
  })
}

test.each(['/', '/song/any/comp', '/assets/app-1a2b.js', '/demo/slow-ferry.zip', '/assets/none.js'])(
  '%s is isolated, and may load nothing from elsewhere',
  async path => {
    const { headers } = await get(path)
    expect(headers).toMatchObject({
      'cross-origin-opener-policy': 'same-origin',
      'cross-origin-embedder-policy': 'require-corp',
      'cross-origin-resource-policy': 'same-origin',
      'x-content-type-options': 'nosniff',
    })
    expect(headers).not.toHaveProperty('x-powered-by')
    const policy = headers['content-security-policy'] as string
    expect(policy).toContain("default-src 'none'")
    expect(policy).not.toMatch(/unsafe-inline|'unsafe-eval'|https?:|\*/)
  },
)

test('styles are let in by a word that stands in the page and in its policy, and is another each time', async () => {
  const nonces = await Promise.all(
    ['/', '/', '/song/any/mix'].map(async path => {
      const { headers, text } = await get(path)
      const nonce = /nonce="([^"]{20,})"/.exec(text)![1]
      expect(headers['content-security-policy']).toContain(`style-src 'self' 'nonce-${nonce}'`)
      return nonce
    }),
  )
  expect(new Set(nonces).size).toBe(3)
})

test('a page is never kept by the browser, its parts are for good: their names change with their content', async () => {
  expect((await get('/song/any/beat')).headers['cache-control']).toBe('no-store')
  expect((await get('/assets/app-1a2b.js')).headers['cache-control']).toBe('public, max-age=31536000, immutable')
})

test('a file that is not there is a 404, not a page', async () => {
  for (const path of ['/assets/none.js', '/demo/other.zip', '/favicon.ico']) expect(await get(path)).toMatchObject({ status: 404, text: 'Not found.' })
})

test.each([
  '/../secret.json',
  '/..%2fsecret.json',
  '/assets/..%2f..%2fsecret.json',
  '/assets/%2e%2e/%2e%2e/secret.json',
  '/..%5csecret.json',
  '/%00secret.json',
])('nothing outside the build is served: %s', async path => {
  const { status, text } = await get(path)
  expect(status).toBeGreaterThanOrEqual(400)
  expect(text).not.toContain('"secret"')
})

test('a demo song that was not made says how to make it; made, it is a zip', async () => {
  expect(await get('/demo/slow-ferry.zip')).toMatchObject({ status: 404, text: expect.stringContaining('npm run demo-song') })
  mkdirSync(dirname(DEMO_SONG_PATH))
  writeFileSync(DEMO_SONG_PATH, 'PK')
  const { status, headers, text } = await get('/demo/slow-ferry.zip')
  expect([status, headers['content-type'], text]).toEqual([200, 'application/zip', 'PK'])
})
