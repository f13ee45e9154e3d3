/** Zip archives piece by piece: written as they grow and read by slices, above 4 GiB too. */
import { configure, Reader, ZipReader, ZipWriter, type FileEntry } from '@zip.js/zip.js'
import type { ByteSource } from './byte-source'

// Whoever works on an archive is in a worker already.
configure({ useWebWorkers: false })

/** Zip keeps times; a fixed one makes equal contents equal files. */
const FIXED_TIME = new Date(2000, 0, 1)

/** A file in an archive. */
export interface ZipEntry {
  name: string
  /** Unpacked, as the directory says. */
  bytes: number
  /** Its bytes in order, checked against the directory's length and sum. Rejects where they are damaged. */
  read(): AsyncGenerator<Uint8Array<ArrayBuffer>>
}

export interface FileToWrite {
  name: string
  bytes: Iterable<Uint8Array<ArrayBuffer>> | AsyncIterable<Uint8Array<ArrayBuffer>>
}

/** Files one after the other, stored as they are. @param emit Takes the archive's bytes in order. Rejects if it does, or as soon as it is cancelled. */
export async function writeZip(
  files: AsyncIterable<FileToWrite>,
  emit: (bytes: Uint8Array<ArrayBuffer>) => Promise<void> | void,
  signal?: AbortSignal,
): Promise<void> {
  const writer = new ZipWriter(new WritableStream<Uint8Array<ArrayBuffer>>({ write: emit }), {
    level: 0,
    extendedTimestamp: false,
    lastModDate: FIXED_TIME,
    ...(signal ? { signal } : {}),
  })
  for await (const { name, bytes } of files) await writer.add(name, streamOf(bytes))
  await writer.close()
}

/** The archive's directory; nothing else of it is read until an entry is. Names are as they stand there: the caller's to check. */
export async function readZip(source: ByteSource, mostEntries: number): Promise<ZipEntry[] | 'not-zip' | 'too-many'> {
  const entries: ZipEntry[] = []
  try {
    for await (const entry of new ZipReader(new SourceReader(source), { filenameValidation: 'tolerant' }).getEntriesGenerator()) {
      if (entries.length === mostEntries) return 'too-many'
      entries.push({ name: entry.filename, bytes: entry.uncompressedSize, read: () => bytesOfEntry(entry as FileEntry) })
    }
  } catch {
    return 'not-zip'
  }
  return entries
}

async function* bytesOfEntry(entry: FileEntry): AsyncGenerator<Uint8Array<ArrayBuffer>> {
  if (entry.directory || entry.encrypted) throw new Error('an entry that holds no readable bytes')
  const { readable, writable } = new TransformStream<Uint8Array<ArrayBuffer>, Uint8Array<ArrayBuffer>>()
  const reading = entry.getData(writable, { checkSignature: true })
  // A failure before the first byte leaves the stream open: nothing would ever come.
  const failure = new Promise<never>((_, reject) => reading.catch(reject))
  failure.catch(() => {})
  const reader = readable.getReader()
  let left = entry.uncompressedSize
  try {
    for (;;) {
      const { done, value } = await Promise.race([reader.read(), failure])
      if (done) break
      left -= value.length
      if (left < 0) throw new Error('more bytes than the directory says')
      yield value
    }
    await reading
    if (left > 0) throw new Error('fewer bytes than the directory says')
  } finally {
    void reader.cancel().catch(() => {})
  }
}

function streamOf(bytes: FileToWrite['bytes']): ReadableStream<Uint8Array<ArrayBuffer>> {
  const pieces = Symbol.asyncIterator in bytes ? bytes[Symbol.asyncIterator]() : bytes[Symbol.iterator]()
  return new ReadableStream({
    async pull(controller) {
      const next = await pieces.next()
      if (next.done) controller.close()
      else controller.enqueue(next.value)
    },
  })
}

class SourceReader extends Reader<ByteSource> {
  constructor(private readonly source: ByteSource) {
    super(source)
    this.size = source.size
  }

  override async readUint8Array(index: number, length: number): Promise<Uint8Array<ArrayBuffer>> {
    return (await this.source.read(index, Math.min(this.size, index + length))) as Uint8Array<ArrayBuffer>
  }
}

/** An entry's bytes at once: for those that are known to be small. Rejects where they are damaged. */
export async function readWhole(entry: ZipEntry): Promise<Uint8Array<ArrayBuffer>> {
  const whole = new Uint8Array(entry.bytes)
  let at = 0
  for await (const piece of entry.read()) {
    whole.set(piece, at)
    at += piece.length
  }
  return whole
}
