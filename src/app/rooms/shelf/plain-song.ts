/** A song over a click or a drone: its sound as a file, and what is known of it before anything is heard. */
import { SAMPLE_RATE_HZ } from '../../../core/audio/frames'
import { makePlainBeat, plainGrid, type PlainBeat } from '../../../core/beat/plain-beat'
import { encodeSamples, encodeWavHeader } from '../../../core/files/wav'
import { setKey } from '../../../core/song/beat-facts'
import type { Song } from '../../../core/song/schema'
import { setGrid } from '../../../core/song/sections'
import { makeId } from '../../../storage/database'

export function plainFile(beat: PlainBeat): File {
  const planes = makePlainBeat(beat)
  const header = encodeWavHeader({ frames: planes[0]!.length, channels: 2, sampleRateHz: SAMPLE_RATE_HZ, encoding: 'pcm16' })
  const sound = beat.drone ? (beat.click ? 'click and drone' : 'drone') : 'click'
  return new File([header, encodeSamples(planes, 'pcm16')], `${sound}, ${beat.tempoBpm} bpm.wav`, { type: 'audio/wav' })
}

export function withPlainFacts(song: Song, beat: PlainBeat): Song {
  const gridded = setGrid({ ...song, title: 'New song' }, { grid: plainGrid(beat), makeId })
  return beat.key ? setKey(gridded, { key: beat.key, tuningCents: 0 }) : gridded
}
