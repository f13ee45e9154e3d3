/** The worker that decodes beside the one that converts and stores. */
import '../core/without-eval'
import type { Planar } from '../core/audio/frames'
import { openSound } from '../core/files/decode'
import type { OpenSoundResult, SoundStream } from '../core/files/sound-stream'
import { fileSource } from './file-source'

/** First the file, then one message for every piece that may be sent. */
export type ToDecoder = { kind: 'open'; file: Blob } | { kind: 'more' }

export type FromDecoder =
  | { kind: 'opened'; result: { ok: true; sound: Omit<SoundStream, 'chunks'> } | Extract<OpenSoundResult, { ok: false }> }
  | { kind: 'piece'; planes: Planar; fraction: number }
  | { kind: 'end' }
  | { kind: 'failed'; error: unknown }

let allowed = 0
let wake = () => {}

onmessage = ({ data }: MessageEvent<ToDecoder>) => {
  if (data.kind === 'open') decode(data.file).catch((error: unknown) => tell({ kind: 'failed', error }))
  else {
    allowed++
    wake()
  }
}

async function decode(file: Blob): Promise<void> {
  const opened = await openSound(fileSource(file))
  if (!opened.ok) return tell({ kind: 'opened', result: opened })
  const { chunks, ...sound } = opened.sound
  tell({ kind: 'opened', result: { ok: true, sound } })
  for await (const { planes, fraction } of chunks()) {
    while (allowed === 0) await new Promise<void>(resolve => (wake = resolve))
    allowed--
    tell(
      { kind: 'piece', planes, fraction },
      planes.map(plane => plane.buffer),
    )
  }
  tell({ kind: 'end' })
}

function tell(message: FromDecoder, transfer: Transferable[] = []): void {
  postMessage(message, { transfer })
}
