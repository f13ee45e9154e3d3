/** A small real song for tests: a beat of 32 bars, two sections of lines, the template. */
import { parseLyrics } from './lyrics'
import { layTemplate } from '../layers/lay-template'
import { countingIds } from '../rehearsal/demo-song'
import { layLyrics } from './lay-lyrics'
import { makeSong } from './make-song'
import { setGrid } from './sections'
import type { AssetId, LayerId, Song, SongId, Take, TakeId } from './schema'
import { addTakes, makeTake } from './takes'

export const makeId = countingIds('t')

/** 120 bpm, bar one at frame 0: a bar is 96 000 frames, a line 192 000. */
export function smallSong(): Song {
  const bare = makeSong({ songId: 'song' as SongId, title: 'Test', assetId: 'beat' as AssetId, fileName: 'beat.wav', frames: 32 * 96_000, makeId })
  const gridded = setGrid(bare, { grid: { tempoBpm: 120, barOneFrame: 0, beatsPerBar: 4, beatUnit: 'quarter', map: null }, makeId })
  return layTemplate(layLyrics(gridded, { lyrics: parseLyrics('[Verse]\none\ntwo\nthree\nfour\n\n[Hook]\nfive\nsix'), firstBar: 5, makeId }), { makeId })
}

/** Line `index` (from 0) of the small song in frames. */
export function lineRange(index: number): { startFrame: number; endFrame: number } {
  return { startFrame: (4 + 2 * index) * 96_000, endFrame: (6 + 2 * index) * 96_000 }
}

export function withTakes(song: Song, layer: string, count: number, overrides: Partial<Take> = {}): Song {
  const layerId = layerOf(song, layer)
  const before = song.takes.length
  const takes = Array.from({ length: count }, (_, i) =>
    makeTake({
      id: `take-${before + i + 1}` as TakeId,
      layerId,
      pass: i + 1,
      assetId: `asset-${before + i + 1}` as AssetId,
      originFrame: 336_000,
      startFrame: 336_000,
      endFrame: 336_000 + 30 * 48_000,
      recordedAt: '2026-01-01T20:00:00.000Z',
      inputName: 'Microphone',
      ...overrides,
    }),
  )
  return addTakes(song, { takes })
}

export function layerOf(song: Song, name: string): LayerId {
  return song.layers.find(layer => layer.name === name)!.id
}
