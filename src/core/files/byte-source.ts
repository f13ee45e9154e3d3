/** Bytes that can be read piece by piece: a dropped file, a file on disk, an array. */

export interface ByteSource {
  readonly size: number
  /** Bytes from `start` to `end`, end excluded; fewer if the source ends before. */
  read(start: number, end: number): Promise<Uint8Array>
}

export function bytesOf(bytes: Uint8Array): ByteSource {
  return { size: bytes.length, read: (start, end) => Promise.resolve(bytes.subarray(start, end)) }
}
