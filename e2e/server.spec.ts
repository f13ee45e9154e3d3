/** What the server sends, and what it does not. */
import { expect, test } from '@playwright/test'

test('every page is isolated and may load nothing from elsewhere; nonces are never reused', async ({ request, page }) => {
  const [first, second] = await Promise.all([request.get('/'), request.get('/song/any/comp')])
  for (const response of [first, second]) {
    expect(response.status()).toBe(200)
    expect(response.headers()).toMatchObject({
      'cross-origin-opener-policy': 'same-origin',
      'cross-origin-embedder-policy': 'require-corp',
      'x-content-type-options': 'nosniff',
    })
  }
  const policyOf = (headers: Record<string, string>) => headers['content-security-policy']!
  const policy = policyOf(first.headers())
  expect(policy).toContain("default-src 'none'")
  expect(policy).not.toMatch(/unsafe-inline|'unsafe-eval'|https?:|\*/)
  expect(policy).not.toBe(policyOf(second.headers()))
  await page.goto('/')
  expect(await page.evaluate(() => crossOriginIsolated)).toBe(true)
  // The policy is not only sent but kept: an inline script does not run.
  const ran = await page.evaluate(() => {
    const script = document.createElement('script')
    script.textContent = 'window.intruder = true'
    document.body.append(script)
    return 'intruder' in window
  })
  expect(ran).toBe(false)
})

test('a file that is not there is a 404, not a page; nothing outside the build is served', async ({ request }) => {
  expect((await request.get('/assets/none.js')).status()).toBe(404)
  expect((await request.get('/demo/other.zip')).status()).toBe(404)
  expect(await (await request.get('/..%2f..%2fpackage.json')).text()).not.toContain('"dependencies"')
  expect((await request.get('/demo/slow-ferry.zip')).headers()['content-type']).toContain('zip')
})
