/** "Slow Ferry": the demo song, whole, with takes in every layer that has something to show. */
import { SAMPLE_RATE_HZ, type Mono, type Planar } from '../audio/frames'
import { frameOfBar } from '../beat/grid'
import { pickTake } from '../comp/picks'
import { quietRange } from '../comp/quiet-spot'
import { makePeaks } from '../audio/peaks'
import { parseLyrics } from '../song/lyrics'
import { layTemplate } from '../layers/lay-template'
import { layLyrics } from '../song/lay-lyrics'
import { makeSong } from '../song/make-song'
import { setChord, setKey } from '../song/beat-facts'
import { setGrid } from '../song/sections'
import type { AssetId, Layer, Song, SongId, Take, TakeId } from '../song/schema'
import { placedLines } from '../song/select'
import { addTakes, makeTake, nextPass } from '../song/takes'
import { DEMO_GRID, DEMO_KEY, makeDemoBeat, demoChords } from './demo-beat'
import { scoreOfSheet } from './score'
import { analyseVoice } from '../voice/analyse-voice'
import { levelOf } from '../voice/take-level'
import { sing } from './sing'

/** The last boat across a harbour at night. */
const DEMO_LYRICS = `[Verse 1 | bar 5]
Harbour radio hums in the rain
ticket stub folded in half
one more coat on the back of a chair
nobody left to ask

[Hook 1]
Slow ferry, carry the lights
over the black and the blue
and the last lamp swings on the quay
slow ferry, no hurry to land

[Verse 2]
Gulls on the rail like a choir
nobody sings till the turn
engine is keeping the time
I am learning to be late

[Hook 2]
Slow ferry, carry the lights
over the black and the blue
and the last lamp swings on the quay
slow ferry, no hurry to land
`

export interface DemoSong {
  song: Song
  assets: { id: AssetId; planes: Planar }[]
}

interface Recording {
  layer: string
  seed: number
  take: number
  bars: [first: number, count: number]
  degreeShift: number
}

/** Which pass was sung on which layer over which bars. */
const RECORDINGS: readonly Recording[] = [
  ...[1, 2, 3, 4].map((take): Recording => ({ layer: 'Lead', seed: 7, take, bars: [5, 32], degreeShift: 0 })),
  { layer: 'Double left', seed: 7, take: 11, bars: [13, 8], degreeShift: 0 },
  { layer: 'Double right', seed: 7, take: 12, bars: [13, 8], degreeShift: 0 },
  { layer: 'High 1', seed: 7, take: 21, bars: [13, 8], degreeShift: 2 },
  { layer: 'High 2', seed: 7, take: 22, bars: [13, 8], degreeShift: 2 },
  { layer: 'Low 1', seed: 7, take: 31, bars: [13, 8], degreeShift: -7 },
]

/** Lead pass picked for each line, by the order of lines; the last hook is left to the singer. */
const LEAD_PICKS = [1, 1, 3, 3, 2, 2, 4, 2, 3, 1, 1, 4]

/** The sheet of the demo song without any takes. */
export function makeDemoSheet(frames: number): Song {
  const makeId = countingIds('demo')
  const bare = makeSong({
    songId: 'slow-ferry' as SongId,
    title: 'Slow Ferry',
    assetId: 'beat-slow-ferry' as AssetId,
    fileName: 'slow-ferry-beat.wav',
    frames,
    makeId,
  })
  const placed = setKey(setGrid(bare, { grid: DEMO_GRID, makeId, source: 'found' }), { key: DEMO_KEY, tuningCents: 0, source: 'found' })
  const withChords = demoChords().reduce((song, { startBeat, beatCount, ...chord }) => setChord(song, { startBeat, beatCount, chord }), placed)
  return layTemplate(layLyrics(withChords, { lyrics: parseLyrics(DEMO_LYRICS), firstBar: 5, makeId }), { makeId })
}

/** Always the same song, sample by sample. */
export function makeDemoSong(onProgress: (fraction: number) => void = () => {}): DemoSong {
  const beat = makeDemoBeat()
  const makeId = countingIds('pick')
  const assets: DemoSong['assets'] = [{ id: 'beat-slow-ferry' as AssetId, planes: beat }]
  let song = makeDemoSheet(beat[0].length)
  RECORDINGS.forEach((recording, index) => {
    const made = record(song, recording, index)
    assets.push({ id: made.take.assetId, planes: [made.sound] })
    song = addTakes(song, { takes: [made.take] })
    song = pickLines(song, made.take, made.sound, recording, makeId)
    onProgress((index + 1) / RECORDINGS.length)
  })
  return { song, assets }
}

function record(song: Song, { layer, seed, take, bars, degreeShift }: Recording, index: number): { take: Take; sound: Mono } {
  const { grid } = song.beat
  const startFrame = frameOfBar(grid, bars[0])
  const endFrame = frameOfBar(grid, bars[0] + bars[1])
  // A second of handle on both sides, as in any recording.
  const originFrame = startFrame - SAMPLE_RATE_HZ
  const score = scoreOfSheet(song, degreeShift)
    .filter(line => line.startSeconds * SAMPLE_RATE_HZ >= startFrame - 10 && line.startSeconds * SAMPLE_RATE_HZ < endFrame)
    .map(line => ({
      startSeconds: line.startSeconds - originFrame / SAMPLE_RATE_HZ,
      notes: line.notes.map(note => ({
        ...note,
        startSeconds: note.startSeconds - originFrame / SAMPLE_RATE_HZ,
        endSeconds: note.endSeconds - originFrame / SAMPLE_RATE_HZ,
      })),
    }))
  const sound = sing({ score, frames: endFrame - originFrame + SAMPLE_RATE_HZ, seed, take })
  const layerId = layerNamed(song, layer).id
  return {
    sound,
    take: makeTake({
      id: `take-${index + 1}` as TakeId,
      layerId,
      pass: nextPass(song, layerId),
      assetId: `sung-${index + 1}` as AssetId,
      originFrame,
      startFrame: startFrame - 24_000,
      endFrame: endFrame + 24_000,
      roundTripFrames: 1_105,
      roundTripSource: 'simulated',
      recordedAt: new Date(Date.UTC(2026, 0, 10, 21, 4 + 3 * index)).toISOString(),
      inputName: 'Practice singer',
      level: levelOf(sound, analyseVoice(sound)),
      starred: layer === 'Lead' && take === 3,
    }),
  }
}

function pickLines(song: Song, take: Take, sound: Mono, recording: Recording, makeId: () => string): Song {
  const peaks = { peaks: makePeaks([sound]), originFrame: take.originFrame }
  return placedLines(song).reduce((current, line, i) => {
    const wanted = recording.layer === 'Lead' ? LEAD_PICKS[i] === recording.take : line.section.name === 'Hook 1'
    return wanted ? pickTake(current, { layerId: take.layerId, takeId: take.id, ...quietRange([peaks], line), makeId }) : current
  }, song)
}

function layerNamed(song: Song, name: string): Layer {
  const layer = song.layers.find(entry => entry.name === name)
  if (!layer) throw new RangeError(`no layer ${name}`)
  return layer
}

/** Ids "prefix-1", "prefix-2", … */
export function countingIds(prefix: string): () => string {
  let count = 0
  return () => `${prefix}-${++count}`
}
