/** `plush render`: a song file to a WAV, FLAC or MP3, by the file's ending, or to a WAV for each layer, by the renderer that also plays. */
import { mkdir, writeFile } from 'node:fs/promises'
import { extname, join } from 'node:path'
import type { Planar } from '../src/core/audio/frames'
import { renderDelivery } from '../src/core/deliver/delivery'
import type { DeliveryFormat, DeliveryRateHz } from '../src/core/deliver/encoders'
import { nameOfPart, planPart, planStems, type Part } from '../src/core/deliver/parts'
import type { ByteSource } from '../src/core/files/byte-source'
import { safeName, uniqueFileName } from '../src/core/files/names'
import { readSongFile } from '../src/core/files/song-file'
import type { AssetStore } from '../src/core/mix/render-offline'
import type { Song } from '../src/core/song/schema'
import { fail } from './failure'
import { withFile } from './file-source'
import { makePrints, type Loaded } from './prints'

interface RenderWish {
  out?: string
  /** What of it: vocals, beat, a role, or a layer by its name or id. */
  only?: string
  /** A folder for the beat and one file a layer. */
  stems?: string
  rate: DeliveryRateHz
}

export async function renderSongFile(file: string, wish: RenderWish): Promise<void> {
  if ((wish.out === undefined) === (wish.stems === undefined)) fail('either --out or --stems is needed')
  if (wish.only !== undefined && wish.stems !== undefined) fail('--only goes with --out; --stems are all layers')
  await withFile(file, source => render(source, file, wish)).catch((error: Error) => fail(`${file} cannot be read: ${error.message}`))
}

async function render(source: ByteSource, file: string, { out, only, stems, rate }: RenderWish): Promise<void> {
  const read = await readSongFile(source)
  if (read.kind === 'refused') fail(`${file} is not a song file that can be used: ${read.reason}${read.detail ? ` (${read.detail})` : ''}`)
  const part = only === undefined ? ({ kind: 'mix' } as const) : findPart(read.song, only)
  const loaded: Loaded = new Map()
  for (const asset of read.assets) {
    const chunks: Planar[] = []
    for await (const planes of read.chunksOf(asset)) chunks.push(planes)
    loaded.set(asset.id, { frames: asset.frames, chunks })
  }
  const store: AssetStore = {
    framesOf: assetId => Promise.resolve(loaded.get(assetId)!.frames),
    readChunks: (assetId, indices) => Promise.resolve(indices.map(index => loaded.get(assetId)!.chunks[index])),
  }
  const { song, prints } = await makePrints(read.song, loaded)
  const isWritten = async (wanted: Part, path: string) => {
    const result = await renderDelivery({ plan: planPart(song, wanted, prints), store, format: formatOf(path, rate), tags: { title: song.title } })
    if (result.kind !== 'delivered') return false
    await writeFile(path, Buffer.concat(result.parts)).catch((error: Error) => fail(`${path} cannot be written: ${error.message}`))
    const { seconds, loudness } = result.report
    console.log(`${path}: ${seconds.toFixed(2)} s, peak ${loudness.samplePeakDbfs.toFixed(2)} dBFS, ${loudness.integratedLufs.toFixed(1)} LUFS`)
    return true
  }
  if (out !== undefined && !(await isWritten(part, out))) fail('nothing of it sounds in this song')
  if (stems === undefined) return
  await mkdir(stems, { recursive: true }).catch((error: Error) => fail(`${stems} cannot be made: ${error.message}`))
  const names: string[] = []
  for (const stem of [{ kind: 'beat' } as const, ...planStems(song, 'layer')]) {
    const name = uniqueFileName(`${safeName(nameOfPart(song, stem))}.wav`, names)
    if (await isWritten(stem, join(stems, name))) names.push(name)
  }
  if (names.length === 0) fail('nothing in this song sounds')
}

/** By the file's ending; anything else is WAV. */
function formatOf(path: string, sampleRateHz: DeliveryRateHz): DeliveryFormat {
  const ending = extname(path).toLowerCase()
  if (ending === '.mp3') return { kind: 'mp3', kbps: 320, sampleRateHz }
  return ending === '.flac' ? { kind: 'flac', sampleRateHz } : { kind: 'wav', bits: 24, sampleRateHz }
}

function findPart(song: Song, name: string): Part {
  if (name === 'vocals' || name === 'beat') return { kind: name }
  const role = song.layers.find(layer => layer.role === name)?.role
  if (role) return { kind: 'role', role }
  const layers = song.layers.filter(layer => layer.id === name || layer.name.toLowerCase() === name.toLowerCase())
  if (layers.length === 1) return { kind: 'layer', layerId: layers[0].id }
  const choices = ['vocals', 'beat', ...new Set(song.layers.map(layer => layer.role)), ...song.layers.map(layer => layer.name)]
  return fail(
    layers.length > 1
      ? `several layers are called "${name}": use an id (${layers.map(({ id }) => id).join(', ')})`
      : `there is no "${name}": one of ${choices.join(', ')}`,
  )
}
