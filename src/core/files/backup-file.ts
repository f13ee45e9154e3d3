/** All songs in one zip: a list, and the song file of each, stored as it is. */
import { strFromU8, strToU8 } from 'fflate'
import { z } from 'zod'
import type { ByteSource } from './byte-source'
import { safeName, uniqueFileName } from './names'
import { readWhole, readZip, writeZip, type ZipEntry } from './zip'

const MOST_SONGS = 1_000
const MOST_LIST_BYTES = 1 << 20
const LIST = 'backup.json'

const ListSchema = z.object({
  format: z.literal('plush-layer-backup'),
  formatVersion: z.literal(1),
  songs: z.array(z.object({ file: z.string().regex(/^songs\/[^/\\]{1,200}\.zip$/), title: z.string().max(120) })).max(MOST_SONGS),
})

export interface SongToBackUp {
  title: string
  /** Its song file, piece by piece. */
  bytes: () => AsyncIterable<Uint8Array<ArrayBuffer>>
}

/** @param emit Takes the file's bytes in order. */
export async function writeBackup(songs: readonly SongToBackUp[], emit: (bytes: Uint8Array<ArrayBuffer>) => Promise<void> | void): Promise<void> {
  const names: string[] = []
  for (const { title } of songs) names.push(uniqueFileName(`${safeName(title)}.zip`, names))
  const list = { format: 'plush-layer-backup', formatVersion: 1, songs: songs.map(({ title }, i) => ({ file: `songs/${names[i]}`, title })) }
  async function* files() {
    yield { name: LIST, bytes: [strToU8(JSON.stringify(list, null, 1)) as Uint8Array<ArrayBuffer>] }
    for (const [i, song] of songs.entries()) yield { name: `songs/${names[i]}`, bytes: song.bytes() }
  }
  await writeZip(files(), emit)
}

export interface BackedUpSong {
  title: string
  read: ZipEntry['read']
}

/** @returns null for what is no backup; its songs are checked when each is brought back. */
export async function readBackup(source: ByteSource): Promise<BackedUpSong[] | null> {
  const entries = await readZip(source, MOST_SONGS + 1)
  if (typeof entries === 'string') return null
  const list = entries.find(({ name }) => name === LIST)
  if (!list || list.bytes > MOST_LIST_BYTES) return null
  try {
    const parsed = ListSchema.parse(JSON.parse(strFromU8(await readWhole(list))))
    return parsed.songs.flatMap(({ file, title }) => {
      const entry = entries.find(({ name }) => name === file)
      return entry ? [{ title, read: () => entry.read() }] : []
    })
  } catch {
    return null
  }
}
