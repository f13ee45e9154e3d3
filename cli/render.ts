/** `plush render`: a song file to a sound file, of the kind that its ending says, or to a WAV for each layer, by the renderer that also plays. */
import { mkdir, writeFile } from 'node:fs/promises'
import { extname, join } from 'node:path'
import { renderDelivery } from '../src/core/deliver/delivery'
import { endingOf, usualFormat, DELIVERY_KINDS, type DeliveryFormat } from '../src/core/deliver/encoders'
import { partsNamed } from '../src/core/deliver/named-parts'
import { nameOfPart, planPart, planStems, type Part } from '../src/core/deliver/parts'
import { safeName, uniqueFileName } from '../src/core/files/names'
import type { Song } from '../src/core/song/schema'
import { fail } from './failure'
import { registerNodeEncoders } from './node-encoders'
import { loadSongFile, readyToSound } from './song-file'

interface RenderWish {
  out?: string
  /** What of it: vocals, beat, a role, or a layer by its name or id. */
  only?: string
  /** A folder for the beat and one file a layer. */
  stems?: string
  rate: number
}

export async function renderSongFile(file: string, { out, only, stems, rate }: RenderWish): Promise<void> {
  if ((out === undefined) === (stems === undefined)) fail('either --out or --stems is needed')
  if (only !== undefined && stems !== undefined) fail('--only goes with --out; --stems are all layers')
  registerNodeEncoders()
  const opened = await loadSongFile(file)
  const part = only === undefined ? ({ kind: 'mix' } as const) : onePart(opened.song, only)
  const { song, prints } = await readyToSound(opened)
  const isWritten = async (wanted: Part, path: string) => {
    const format = formatOf(path, rate)
    const result = await renderDelivery({ plan: planPart(song, wanted, prints), store: opened.store, format, tags: { title: song.title } })
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
function formatOf(path: string, rateHz: number): DeliveryFormat {
  const ending = extname(path).slice(1).toLowerCase()
  return usualFormat(DELIVERY_KINDS.find(kind => endingOf({ kind }) === ending) ?? 'wav', rateHz)
}

function onePart(song: Song, name: string): Part {
  const named = partsNamed(song, name)
  if (!named.ok) fail(named.why)
  if (named.parts.length !== 1) fail(`"${name}" is ${named.parts.length} files: use \`plush deliver\``)
  return named.parts[0]!
}
