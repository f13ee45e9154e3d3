/** Kernels in WebAssembly that the core carries along as text, so that they load without a file: in workers, worklets and Node alike. */

const LETTERS = 'ABCDEFGHIJKLMNOPQRSTUVWXYZabcdefghijklmnopqrstuvwxyz0123456789+/'

/** @param base64 An assembled module, as scripts/assemble.mjs writes it. */
export function compileKernel(base64: string): WebAssembly.Module {
  const letters = base64.replace(/=+$/, '')
  const bytes = new Uint8Array(Math.floor((letters.length * 3) / 4))
  // By hand: an audio worklet has no atob.
  for (let i = 0, bits = 0, held = 0, at = 0; i < letters.length; i++) {
    held = ((held << 6) | LETTERS.indexOf(letters[i])) & 0xffff
    bits += 6
    if (bits < 8) continue
    bits -= 8
    bytes[at++] = held >> bits
  }
  return new WebAssembly.Module(bytes)
}
