/** Opens a sound in a worker of its own, so that decoding it and what becomes of it are the work of two cores. */
import type { OpenSoundResult } from '../core/files/sound-stream'
import type { FromDecoder, ToDecoder } from './decoder'

/** Pieces that may lie decoded and not yet used. */
const AHEAD = 6

let ready: Decoder | null = null

/** Starts the worker before there is a file for it. */
export function readyDecoder(): void {
  ready ??= new Decoder()
}

/** As `openSound`; the pieces can be read once. */
export async function openBeside(file: Blob): Promise<OpenSoundResult> {
  const decoder = ready ?? new Decoder()
  ready = null
  decoder.ask({ kind: 'open', file })
  const first = await decoder.next()
  if (first.kind !== 'opened') decoder.end()
  if (first.kind !== 'opened') throw first.kind === 'failed' ? first.error : new Error('the decoder answered out of turn')
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
  private readonly worker = new Worker(new URL('./decoder.ts', import.meta.url), { type: 'module', name: 'plush-decoder' })
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
    while (this.arrived.length === 0) await new Promise<void>(resolve => (this.wake = resolve))
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
