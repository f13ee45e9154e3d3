/** A dropped file as the decoders read it: stretch by stretch. */
import type { ByteSource } from '../core/files/byte-source'

export function fileSource(file: Blob): ByteSource {
  return { size: file.size, read: async (start, end) => new Uint8Array(await file.slice(start, end).arrayBuffer()) }
}
