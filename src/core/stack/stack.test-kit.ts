/** The demo song's sheet with the practice singer on it, for tests of the stack. */
import type { Mono, Planar } from '../audio/frames'
import { pickTake } from '../comp/picks'
import { heardOf } from '../edits/heard-of'
import { makeDemoSheet } from '../rehearsal/demo-song'
import { singStretch } from '../rehearsal/sing-stretch'
import type { AssetId, LayerId, Song, Take, TakeId } from '../song/schema'
import { placedLines, requireTake, type FrameRange, type PlacedLine } from '../song/select'
import { makeId } from '../song/song.test-kit'
import { addTakes, makeTake, nextPass } from '../song/takes'
import { analyseVoice, type VoiceAnalysis } from '../voice/analyse-voice'
import type { HeardSounds } from './line-offers'

const BESIDE_FRAMES = 24_000

/** What was sung so far. */
export class Studio {
  readonly assets = new Map<AssetId, Mono>()
  private readonly analyses = new Map<AssetId, VoiceAnalysis>()

  /** A take of a layer over some lines: sung, or with the sound given. */
  sing(
    song: Song,
    layerId: LayerId,
    lines: readonly PlacedLine[],
    { firstTake = 1, degreeShift = 0, sound }: { firstTake?: number; degreeShift?: number; sound?: Mono } = {},
  ): Song {
    const range = { startFrame: lines[0].startFrame - BESIDE_FRAMES, endFrame: lines[lines.length - 1].endFrame + BESIDE_FRAMES }
    const assetId = `sung-${this.assets.size}` as AssetId
    this.assets.set(assetId, sound ?? singStretch(song, range, { passes: 1, firstTake, degreeShift }, () => {}))
    const take = makeTake({
      id: `take-${this.assets.size}` as TakeId,
      layerId,
      pass: nextPass(song, layerId),
      assetId,
      originFrame: range.startFrame,
      ...range,
      recordedAt: '2026-01-01T20:00:00.000Z',
    })
    return addTakes(song, { takes: [take] })
  }

  soundOf(song: Song, takeId: TakeId): Mono {
    return this.assets.get(requireTake(song, takeId).assetId)!
  }

  analysisOf(assetId: AssetId): VoiceAnalysis {
    const known = this.analyses.get(assetId) ?? analyseVoice(this.assets.get(assetId)!)
    this.analyses.set(assetId, known)
    return known
  }

  heard(song: Song): Song {
    return { ...song, takes: song.takes.map((take): Take => ({ ...take, heard: heardOf(this.analysisOf(take.assetId), take) })) }
  }

  readonly sounds: HeardSounds = {
    read: (assetId, from, to): Promise<Planar> => {
      const sound = this.assets.get(assetId)
      return Promise.resolve([Float32Array.from({ length: to - from }, (_, i) => sound?.[from + i] ?? 0)])
    },
    analysisOf: take => Promise.resolve(this.assets.has(take.assetId) ? this.analysisOf(take.assetId) : null),
  }
}

export const sheet = makeDemoSheet(110 * 48_000)
/** Of the first hook and of the second: the same words. */
export const hookLines = (number: 1 | 2): PlacedLine[] => placedLines(sheet).filter(line => line.section.name === `Hook ${number}`)

export function picked(song: Song, layerId: LayerId, takeId: TakeId, { startFrame, endFrame }: FrameRange): Song {
  return pickTake(song, { layerId, takeId, startFrame, endFrame, makeId })
}
