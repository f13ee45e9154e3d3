/** What a sound file says about itself: hints, never believed without being asked. */
import { TONICS, type Key } from '../beat/key-names'
import type { ByteSource } from './byte-source'

export interface FileSays {
  title: string | null
  tempoBpm: number | null
  key: Key | null
}

const NOTHING: FileSays = { title: null, tempoBpm: null, key: null }
/** In lower case; what stands before the last colon of a tag (whoever named it) does not matter. */
const TEMPO_TAGS = ['tbpm', 'tmpo', 'bpm', 'tempo']
const KEY_TAGS = ['tkey', 'initialkey', 'key']

/** ID3, Vorbis comments, MP4 and RIFF tags, by mediabunny. A file without tags, or with damaged ones, says nothing. */
export async function readTags(source: ByteSource): Promise<FileSays> {
  const { ALL_FORMATS, CustomSource, Input } = await import('mediabunny')
  try {
    const input = new Input({ source: new CustomSource({ getSize: () => source.size, read: (start, end) => source.read(start, end) }), formats: ALL_FORMATS })
    const { title, raw, beatsPerMinute } = await input.getMetadataTags()
    const tags = new Map(Object.entries(raw ?? {}).map(([name, value]) => [name.slice(name.lastIndexOf(':') + 1).toLowerCase(), value]))
    const first = (names: string[]) => names.map(name => tags.get(name)).find(value => typeof value === 'string')
    // The reader's own number is whole; the tag may say more.
    const said = parseFloat(String(first(TEMPO_TAGS) ?? '').replace(',', '.'))
    const bpm = said > 0 ? said : (beatsPerMinute ?? 0)
    return { title: title?.trim().slice(0, 120) || null, tempoBpm: bpm >= 30 && bpm <= 300 ? bpm : null, key: parseKey(first(KEY_TAGS) ?? '') }
  } catch {
    return NOTHING
  }
}

/** "Fm", "F minor", "Bb", "C#maj"; null for anything else. */
export function parseKey(text: string): Key | null {
  const [, letter, sign = '', quality = ''] = /^\s*([A-Ga-g])([#b♯♭]?)\s*(maj|major|min|minor|m|M)?\s*$/.exec(text) ?? []
  if (!letter) return null
  const semitone = { c: 0, d: 2, e: 4, f: 5, g: 7, a: 9, b: 11 }[letter.toLowerCase()]! + (sign === '#' || sign === '♯' ? 1 : sign ? -1 : 0)
  return { tonic: TONICS[(semitone + 12) % 12], mode: quality === 'm' || quality.startsWith('min') ? 'minor' : 'major' }
}
