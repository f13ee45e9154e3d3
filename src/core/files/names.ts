/** Names of exported files. */

/** "Slow Ferry - vocals.wav": safe on every common file system. */
export function deliveryFileName(title: string, part: string, ending: string): string {
  return `${safeName(title)} - ${safeName(part)}.${ending}`
}

/** What a pattern's pieces stand for; one that is not there leaves nothing behind. */
export type NamePieces = Record<'title' | 'artist' | 'part' | 'tempo' | 'key' | 'date' | 'version', string>
export const NAME_PIECES = ['title', 'artist', 'part', 'tempo', 'key', 'date', 'version'] as const
export const USUAL_NAME_PATTERN = '{title} - {part}'

/** A file's name by a pattern such as "{artist} - {title} ({part})": safe on every common file system. Always with the part, so that files differ. */
export function nameByPattern(pattern: string, pieces: NamePieces, ending: string): string {
  const wanted = pattern.includes('{part}') ? pattern : `${pattern} - {part}`
  const filled = wanted.replace(/\{(\w+)\}/g, (_, name: string) =>
    NAME_PIECES.includes(name as (typeof NAME_PIECES)[number]) ? pieces[name as keyof NamePieces] : '',
  )
  // Where a piece is empty, what stood round it for its sake goes as well.
  const tidy = filled
    .replace(/[([]\s*[)\]]/g, ' ')
    .replace(/\s+/g, ' ')
    .replace(/^[\s\-_,]+|[\s\-_,]+$/g, '')
    .replace(/([-_,])(\s*[-_,])+/g, '$1')
  return `${safeName(tidy)}.${ending}`
}

/** Without characters that file systems refuse; "Untitled" if nothing is left. */
export function safeName(name: string): string {
  const cleaned = name
    .normalize('NFC')
    .replace(/[\u0000-\u001f\u007f<>:"/\\|?*]/g, ' ')
    .replace(/\s+/g, ' ')
    .replace(/^[. ]+/, '')
  const short = firstCharacters(cleaned, MOST_CHARACTERS).replace(/[. ]+$/, '')
  return /^(con|prn|aux|nul|com\d|lpt\d)?$/i.test(short) ? 'Untitled' : short
}

const MOST_CHARACTERS = 80

/** File systems allow 255 bytes; a part's name, a number and an ending follow. */
const MOST_BYTES = 180

/** Never half of one: a letter with its accents, or a picture of several signs, counts as one. */
function firstCharacters(text: string, count: number): string {
  const characters = [...new Intl.Segmenter('en', { granularity: 'grapheme' }).segment(text)].slice(0, count).map(({ segment }) => segment)
  while (new TextEncoder().encode(characters.join('')).length > MOST_BYTES) characters.pop()
  return characters.join('')
}

/** The name, or with a number behind it where others have it; letters in another case count as the same. */
export function uniqueFileName(fileName: string, others: readonly string[]): string {
  const taken = new Set(others.map(other => other.toLowerCase()))
  const [, stem, ending] = /^(.*?)(\.[^.]*)?$/s.exec(fileName)!
  for (let number = 2, name = fileName; ; number++) {
    if (!taken.has(name.toLowerCase())) return name
    name = `${stem} ${number}${ending ?? ''}`
  }
}

/** A title from a beat's file name: without its ending, underscores as spaces. */
export function titleFromFileName(fileName: string): string {
  return safeName(fileName.replace(/\.[^.]{1,5}$/, '').replace(/_+/g, ' '))
}
