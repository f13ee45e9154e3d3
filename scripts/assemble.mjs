/** Assembles the core's kernels into modules that it can load without a file: `node scripts/assemble.mjs`. */
import { readFileSync, writeFileSync } from 'node:fs'
import loadWabt from 'wabt'

const wabt = await loadWabt()
for (const [folder, name] of [
  ['src/core/audio', 'convolve'],
  ['src/core/effects', 'dynamics'],
  ['src/core/effects', 'network'],
  ['src/core/effects', 'saturate'],
  ['src/core/effects', 'walls'],
  ['src/core/mix', 'sends'],
]) {
  const parsed = wabt.parseWat(`${name}.wat`, readFileSync(`${folder}/${name}.wat`, 'utf8'), { simd: true, bulk_memory: true })
  const { buffer } = parsed.toBinary({})
  writeFileSync(
    `${folder}/${name}-wasm.ts`,
    `/** ${name}.wat, assembled by scripts/assemble.mjs; base64. Do not edit. */\nexport const ${name.toUpperCase()}_WASM =\n  '${Buffer.from(buffer).toString('base64')}'\n`,
  )
}
