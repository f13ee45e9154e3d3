/** Assembles src/core/audio/convolve.wat into a module that the core can load without a file: `node scripts/assemble.mjs`. */
import { readFileSync, writeFileSync } from 'node:fs'
import loadWabt from 'wabt'

const wabt = await loadWabt()
const parsed = wabt.parseWat('convolve.wat', readFileSync('src/core/audio/convolve.wat', 'utf8'), { simd: true })
const { buffer } = parsed.toBinary({})
writeFileSync(
  'src/core/audio/convolve-wasm.ts',
  `/** convolve.wat, assembled by scripts/assemble.mjs; base64. Do not edit. */\nexport const CONVOLVE_WASM =\n  '${Buffer.from(buffer).toString('base64')}'\n`,
)
