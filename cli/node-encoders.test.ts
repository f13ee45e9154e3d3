import { beforeAll, describe, expect, test } from '@jest/globals'
import { AudioSample, EncodedPacket, registerEncoder, type AudioCodec } from 'mediabunny'
import { mkdtempSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { makeEncoder } from '../src/core/deliver/encoders'
import { decodedByFfmpeg, hasDecoders } from '../src/core/files/other-decoders.test-kit'
import { OpusEncoder, registerNodeEncoders } from './node-encoders'

/** With the delay they end in one packet, with it twice in the next. */
const FRAMES = 104 * 960 + 480
const DELAY_FRAMES = 312
let givesAll = false

/** As a browser's that gives what it still holds when it ends, and whose packets but the first say times without the delay. */
class Giving extends OpusEncoder {
  static override supports(codec: AudioCodec, config: AudioEncoderConfig): boolean {
    return givesAll && super.supports(codec, config)
  }

  override init(): void {
    super.init()
    const give = this.onPacket
    const early: typeof give = ({ data, type, timestamp, duration }, meta) =>
      give(new EncodedPacket(data, type, Math.max(0, timestamp - DELAY_FRAMES / 48_000), duration), meta)
    Object.assign(this, { onPacket: early })
  }

  override flush(): void {
    const silence = new Float32Array(2 * DELAY_FRAMES)
    this.encode(new AudioSample({ numberOfChannels: 2, sampleRate: 48_000, timestamp: 0, format: 'f32-planar', data: silence }))
    super.flush()
  }
}

beforeAll(() => {
  // The first that supports it is taken.
  registerEncoder(Giving)
  registerNodeEncoders()
})

const described = hasDecoders ? describe : describe.skip

described('Opus', () => {
  test.each([
    ['keeps what it holds', false],
    ['gives it', true],
  ])('by an encoder that at its end %s plays as many frames as went in, to the last of them', async (what, gives) => {
    givesAll = gives
    const encoder = await makeEncoder({ kind: 'opus', sampleRateHz: 48_000, kbps: 160 })
    const tone = Float32Array.from({ length: FRAMES }, (_, i) => 0.3 * Math.sin(i / 20))
    await encoder.push([tone, tone])
    const path = join(mkdtempSync(join(tmpdir(), 'opus-')), `${what}.opus`)
    writeFileSync(path, Buffer.concat(await encoder.finish()))
    const back = decodedByFfmpeg(path)[0]!
    expect(back).toHaveLength(FRAMES)
    const last = back.subarray(FRAMES - 480)
    expect(Math.sqrt(last.reduce((sum, x) => sum + x * x, 0) / last.length)).toBeCloseTo(0.3 * Math.SQRT1_2, 1)
  })
})
