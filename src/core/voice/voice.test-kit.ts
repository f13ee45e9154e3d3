/** A voice-like sound that is known to the last detail. */
import type { Mono } from '../audio/frames'
import { gaussian, makeRandom } from '../audio/random'

const RATE = 48_000

/** A buzz through two resonances whose pitch is known at every frame: sung from 0.5 s to 3.5 s of 4 s. */
export function buzz(hzAt: (seconds: number) => number, { noise = 0, seed = 1 } = {}): { sound: Mono; hzAt: (seconds: number) => number } {
  const random = makeRandom(seed)
  const sound = new Float32Array(4 * RATE)
  let phase = 0
  let [y1, y2, z1, z2] = [0, 0, 0, 0]
  for (let i = 0; i < sound.length; i++) {
    const t = i / RATE
    const hz = hzAt(t)
    phase += hz / RATE
    let pulse = 0
    const harmonics = Math.min(40, Math.floor(9_000 / hz))
    for (let n = 1; n <= harmonics; n++) pulse += Math.sin(2 * Math.PI * n * phase) / n ** 1.2
    const gate = Math.max(0, Math.min(1, (t - 0.5) / 0.03, (3.5 - t) / 0.03))
    const y = 0.02 * gate * pulse + 2 * 0.985 * Math.cos((2 * Math.PI * 650) / RATE) * y1 - 0.985 ** 2 * y2
    ;[y2, y1] = [y1, y]
    const z = 0.3 * y + 2 * 0.98 * Math.cos((2 * Math.PI * 1_250) / RATE) * z1 - 0.98 ** 2 * z2
    ;[z2, z1] = [z1, z]
    sound[i] = 0.05 * (y + 0.5 * z) + noise * gaussian(random)
  }
  return { sound, hzAt }
}
