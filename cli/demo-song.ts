/** `plush demo-song`: the demo song as a song file. */
import { existsSync, statSync } from 'node:fs'
import { mkdir, open, rename } from 'node:fs/promises'
import { dirname } from 'node:path'
import { fileURLToPath } from 'node:url'
import { AssetReader, type AssetFacts } from '../src/core/files/asset'
import { writeSongFile } from '../src/core/files/song-file'
import { cutIntoChunks } from '../src/core/mix/chunk-window'
import { makeDemoSong } from '../src/core/rehearsal/demo-song'

export async function writeDemoSong(out: string, { ifStale }: { ifStale?: boolean }): Promise<void> {
  // This file was built after the last change of the code that makes the song.
  if (ifStale && existsSync(out) && statSync(out).mtimeMs > statSync(fileURLToPath(import.meta.url)).mtimeMs) return
  const demo = makeDemoSong()
  const planesOf = new Map(demo.assets.map(asset => [asset.id, asset.planes]))
  const assets: { id: (typeof demo.assets)[number]['id']; facts: AssetFacts }[] = []
  for (const { id, planes } of demo.assets) {
    const reader = await AssetReader.create(planes.length)
    for (const chunk of cutIntoChunks(planes)) reader.push(chunk)
    assets.push({ id, facts: reader.finish() })
  }
  await mkdir(dirname(out), { recursive: true })
  // Written beside and renamed, so that a half-written file is never served.
  const file = await open(`${out}.part`, 'w')
  await writeSongFile({ song: demo.song, assets, chunksOf: id => cutIntoChunks(planesOf.get(id)!), emit: async bytes => void (await file.write(bytes)) })
  await file.close()
  await rename(`${out}.part`, out)
  console.log(
    `${out}: "${demo.song.title}", ${(demo.song.beat.frames / 48_000).toFixed(1)} s, ${demo.song.takes.length} takes, ${(statSync(out).size / 1e6).toFixed(1)} MB`,
  )
}
