import { describe, expect, test } from '@jest/globals'
import { strToU8, unzipSync, zipSync } from 'fflate'
import { readBackup, writeBackup } from './backup-file'
import { bytesOf } from './byte-source'

async function backupOf(titles: readonly string[]): Promise<Uint8Array> {
  const pieces: Uint8Array[] = []
  const songs = titles.map((title, i) => ({
    title,
    async *bytes() {
      yield strToU8(`song ${i} `) as Uint8Array<ArrayBuffer>
      yield await Promise.resolve(strToU8('goes on') as Uint8Array<ArrayBuffer>)
    },
  }))
  await writeBackup(songs, bytes => void pieces.push(bytes.slice()))
  return Buffer.concat(pieces)
}

test('every song is there under its title, however songs are called, and another reader opens it', async () => {
  const titles = ['Slow Ferry', 'slow ferry', '../../etc', 'ö'.repeat(120), 'CON']
  const bytes = await backupOf(titles)
  const back = (await readBackup(bytesOf(bytes)))!
  expect(back.map(({ title }) => title)).toEqual(titles)
  for (const [i, { read }] of back.entries()) {
    const parts: Uint8Array[] = []
    for await (const piece of read()) parts.push(piece)
    expect(Buffer.concat(parts).toString()).toBe(`song ${i} goes on`)
  }
  const names = Object.keys(unzipSync(bytes))
  expect(names).toHaveLength(6)
  for (const name of names) expect(name).toMatch(/^(backup\.json|songs\/[^/\\]+\.zip)$/)
})

describe('what is no backup is none', () => {
  const list = (songs: object[]) => zipSync({ 'backup.json': strToU8(JSON.stringify({ format: 'plush-layer-backup', formatVersion: 1, songs })) })
  test.each<[string, () => Uint8Array]>([
    ['text', () => strToU8('words')],
    ['another zip', () => zipSync({ 'song.json': strToU8('{}') })],
    ['a list of another kind', () => zipSync({ 'backup.json': strToU8('[]') })],
    ['a way out of its folder', () => list([{ file: 'songs/../../x.zip', title: 'x' }])],
  ])('%s', async (_, make) => expect(await readBackup(bytesOf(make()))).toBeNull())

  test('a song that is listed and not there is left out', async () => {
    expect(await readBackup(bytesOf(list([{ file: 'songs/gone.zip', title: 'Gone' }])))).toEqual([])
  })
})
