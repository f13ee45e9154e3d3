import { expect, test } from '@jest/globals'
import { compileKernel } from './kernel'
import { CONVOLVE_WASM } from './convolve-wasm'

test('a module is read from its text, whatever its length leaves over', () => {
  expect(WebAssembly.Module.exports(compileKernel(CONVOLVE_WASM)).map(({ name }) => name)).toEqual(['memory', 'convolve', 'convolvePair'])
  // The least module there is, with a custom section of one to three bytes behind it.
  for (const length of [1, 2, 3]) {
    const bytes = [0, 0x61, 0x73, 0x6d, 1, 0, 0, 0, 0, length + 2, 1, 0x78, ...new Array<number>(length).fill(0xfe)]
    const [section] = WebAssembly.Module.customSections(compileKernel(Buffer.from(bytes).toString('base64')), 'x')
    expect([...new Uint8Array(section)]).toEqual(new Array(length).fill(0xfe))
  }
})
