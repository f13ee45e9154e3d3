import { describe, expect, test } from '@jest/globals'
import { unzipSync, zipSync } from 'fflate'
import { memoryUsage } from 'node:process'
import type { ByteSource } from './byte-source'
import { bytesOf } from './byte-source'
import { readZip, writeZip, type FileToWrite } from './zip'

async function all<T>(items: AsyncIterable<T>): Promise<T[]> {
  const found: T[] = []
  for await (const item of items) found.push(item)
  return found
}

async function* files(...given: FileToWrite[]): AsyncGenerator<FileToWrite> {
  yield* given
}

async function entriesOf(source: ByteSource) {
  const entries = await readZip(source, 100)
  if (typeof entries === 'string') throw new Error(entries)
  return entries
}

test('what is written can be read by others, and what others write can be read', async () => {
  const bytes = Uint8Array.from({ length: 70_000 }, (_, i) => (i * i) % 251)
  const pieces: Uint8Array[] = []
  await writeZip(files({ name: 'a.bin', bytes: [bytes.slice(0, 10), bytes.slice(10)] }, { name: 'empty', bytes: [] }), piece => void pieces.push(piece.slice()))
  expect(unzipSync(Buffer.concat(pieces))).toEqual({ 'a.bin': bytes, empty: new Uint8Array(0) })
  const [entry] = await entriesOf(bytesOf(zipSync({ 'a.bin': [bytes, { level: 6 }] })))
  expect(Buffer.concat(await all(entry.read()))).toEqual(Buffer.from(bytes))
})

const ZEROS = Buffer.alloc(1 << 23)

/** Bytes kept as one remembers them: stretches of zeros as their length only. */
class SparseBytes implements ByteSource {
  size = 0
  private readonly pieces: { from: number; bytes: Uint8Array }[] = []

  push(bytes: Uint8Array): void {
    if (!Buffer.from(bytes.buffer, bytes.byteOffset, bytes.length).equals(ZEROS.subarray(0, bytes.length)))
      this.pieces.push({ from: this.size, bytes: bytes.slice() })
    this.size += bytes.length
  }

  read(start: number, end: number): Promise<Uint8Array> {
    const read = new Uint8Array(Math.max(0, Math.min(end, this.size) - start))
    for (const { from, bytes } of this.pieces) {
      const [at, to] = [Math.max(start, from), Math.min(end, from + bytes.length)]
      if (to > at) read.set(bytes.subarray(at - from, to - from), at - start)
    }
    return Promise.resolve(read)
  }
}

describe('beyond four gibibytes', () => {
  test('an archive is written and read by slices; memory stays flat', async () => {
    const archive = new SparseBytes()
    const zeros = new Uint8Array(1 << 22)
    async function* silence(gibibytes: number): AsyncGenerator<Uint8Array<ArrayBuffer>> {
      for (let i = 0; i < gibibytes * 256; i++) yield zeros
    }
    const last = Uint8Array.from({ length: 50_000 }, (_, i) => i % 255)
    let most = 0
    const before = memoryUsage().rss
    await writeZip(files({ name: 'one', bytes: silence(1.5) }, { name: 'two', bytes: silence(3.75) }, { name: 'last', bytes: [last] }), piece => {
      archive.push(piece)
      most = Math.max(most, memoryUsage().rss)
    })
    expect(archive.size).toBeGreaterThan(5.25 * 2 ** 30)
    expect(most - before).toBeLessThan(300e6)
    const entries = await entriesOf(archive)
    expect(entries.map(({ name, bytes }) => [name, bytes])).toEqual([
      ['one', 1.5 * 2 ** 30],
      ['two', 3.75 * 2 ** 30],
      ['last', 50_000],
    ])
    expect(Buffer.concat(await all(entries[2].read()))).toEqual(Buffer.from(last))
  }, 180_000)
})

test('damage is found, never passed over', async () => {
  const pieces: Uint8Array[] = []
  await writeZip(files({ name: 'a', bytes: [new Uint8Array(5_000).fill(7)] }), piece => void pieces.push(piece.slice()))
  const archive = Buffer.concat(pieces)
  const damaged = Uint8Array.from(archive)
  damaged[2_000] ^= 1
  const [entry] = await entriesOf(bytesOf(damaged))
  await expect(all(entry.read())).rejects.toThrow()
  expect(await readZip(bytesOf(archive.subarray(0, 4_000)), 9)).toBe('not-zip')
  expect(await readZip(bytesOf(archive), 0)).toBe('too-many')
})

test('a reader that stops early lets go of the entry', async () => {
  const pieces: Uint8Array[] = []
  await writeZip(files({ name: 'a', bytes: [new Uint8Array(3_000_000).fill(7)] }), piece => void pieces.push(piece.slice()))
  const [entry] = await entriesOf(bytesOf(Buffer.concat(pieces)))
  for await (const piece of entry.read()) {
    expect(piece[0]).toBe(7)
    break
  }
})
