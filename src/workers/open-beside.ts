/** Decodes a sound file in a worker of its own, so that decoding and storing run on two cores. */
import { StuckError } from '../core/files/import-sound'
import type { OpenSoundResult } from '../core/files/sound-stream'
import type { FromDecoder, ToDecoder } from './decoder'
import { startDecoderThread } from './threads'

/** Pieces that may lie decoded and not yet used. */
const AHEAD = 6

/** A file that gives nothing for so long is given up. */
const MOST_SILENT_MILLISECONDS = 4_500

let ready: Decoder | null = null

/** Starts the worker before there is a file for it. */
export function readyDecoder(): void {
  ready ??= new Decoder()
}

/** As `openSound`; the pieces can be read once. @throws StuckError if the decoder gives nothing for too long, now or later. */
export async function openBeside(file: Blob): Promise<OpenSoundResult> {
  const decoder = ready ?? new Decoder()
  ready = null
  decoder.ask({ kind: 'open', file })
  const first = await decoder.next().catch((error: unknown) => {
    decoder.end()
    throw error
  })
  // Whatever the decoder broke on, it is no sound that can be read.
  if (first.kind !== 'opened') {
    decoder.end()
    return { ok: false, reason: 'not-sound', format: 'unknown' }
  }
  if (!first.result.ok) {
    decoder.end()
    return first.result
  }
  return {
    ok: true,
    sound: {
      ...first.result.sound,
      async *chunks() {
        try {
          for (let i = 0; i < AHEAD; i++) decoder.ask({ kind: 'more' })
          for (;;) {
            const message = await decoder.next()
            if (message.kind === 'failed') throw message.error
            if (message.kind !== 'piece') return
            decoder.ask({ kind: 'more' })
            yield message
          }
        } finally {
          decoder.end()
        }
      },
    },
  }
}

class Decoder {
  private readonly worker = startDecoderThread()
  private readonly arrived: FromDecoder[] = []
  private wake = () => {}

  constructor() {
    this.worker.onmessage = ({ data }: MessageEvent<FromDecoder>) => this.take(data)
    this.worker.onerror = event => this.take({ kind: 'failed', error: new Error(event.message) })
  }

  ask(message: ToDecoder): void {
    this.worker.postMessage(message)
  }

  async next(): Promise<FromDecoder> {
    const end = performance.now() + MOST_SILENT_MILLISECONDS
    while (this.arrived.length === 0) {
      if (performance.now() > end) throw new StuckError()
      await new Promise<void>(resolve => {
        const timer = setTimeout(resolve, end - performance.now() + 1)
        this.wake = () => {
          clearTimeout(timer)
          resolve()
        }
      })
    }
    return this.arrived.shift()!
  }

  end(): void {
    this.worker.terminate()
  }

  private take(message: FromDecoder): void {
    this.arrived.push(message)
    this.wake()
  }
}
