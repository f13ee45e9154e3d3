/** `plush beside`: what goes beside the sound of a song file, in a folder. */
import { mkdir, writeFile } from 'node:fs/promises'
import { join } from 'node:path'
import { lrcText, lyricsText, markersCsv } from '../src/core/deliver/beside'
import { sessionSheet } from '../src/core/deliver/session-sheet'
import { songMidi } from '../src/core/deliver/song-notes'
import { deliveryFileName } from '../src/core/files/names'
import { currentComp } from '../src/core/song/select'
import { fail } from './failure'
import { listenTo } from './prints'
import { loadSongFile } from './song-file'

export async function writeBeside(file: string, { out, artist = '' }: { out: string; artist?: string }): Promise<void> {
  const opened = await loadSongFile(file)
  const singing = opened.song.layers.find(layer => layer.role === 'lead')
  const played = new Set(singing ? currentComp(singing).picks.map(pick => pick.takeId) : [])
  const song = await listenTo(opened.song, opened.loaded, take => played.has(take.id))
  const lead = song.layers.find(layer => layer.id === singing?.id) ?? null
  const files: [string, string, string | Uint8Array][] = [
    ['lyrics', 'txt', lyricsText(song)],
    ['lyrics', 'lrc', lrcText(song, lead, { artist })],
    ['notes', 'mid', songMidi(song, lead)],
    ['places', 'csv', markersCsv(song)],
    ['session', 'html', sessionSheet(song, { artist, date: new Date().toISOString().slice(0, 10) })],
  ]
  await mkdir(out, { recursive: true }).catch((error: Error) => fail(`${out} cannot be made: ${error.message}`))
  const written: string[] = []
  for (const [what, ending, content] of files) {
    const path = join(out, deliveryFileName(song.title, what, ending))
    await writeFile(path, content).catch((error: Error) => fail(`${path} cannot be written: ${error.message}`))
    written.push(path)
  }
  console.log(JSON.stringify({ files: written }, null, 1))
}
