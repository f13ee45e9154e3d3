/** A thread that decodes one file after the other: whatever a damaged file does to a decoder, it does it here. */
import { parentPort } from 'node:worker_threads'
import type { Planar } from '../src/core/audio/frames'
import { openSound } from '../src/core/files/decode'
import { importSound, type ImportSoundResult } from '../src/core/files/import-sound'
import { joinPlanes } from '../src/core/mix/render-offline'
import { withFile } from './file-source'
import { registerNodeDecoders } from './node-decoders'

/** A sign of life, or what a file came to. The samples are transferred. */
export type FromDecodeWorker = { kind: 'going' } | { kind: 'done'; result: ImportSoundResult; planes: Planar } | { kind: 'failed'; detail: string }

registerNodeDecoders()

parentPort!.on('message', (path: string) => {
  decode(path).then(
    done => tell(done, done.kind === 'done' ? done.planes.map(plane => plane.buffer) : []),
    (error: unknown) => tell({ kind: 'failed', detail: error instanceof Error ? error.message : String(error) }),
  )
})

async function decode(path: string): Promise<FromDecodeWorker> {
  const pieces: Planar[] = []
  const result = await withFile(path, async source =>
    importSound(await openSound(source), planes => void pieces.push(planes), { acceptCutShort: true, onProgress: () => tell({ kind: 'going' }) }),
  )
  return { kind: 'done', result, planes: joinPlanes(pieces) }
}

function tell(message: FromDecodeWorker, transferred: ArrayBuffer[] = []): void {
  parentPort!.postMessage(message, transferred)
}
