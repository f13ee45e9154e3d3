/** What Tidy shows of a layer: the selected stretch, its notes, mends and words, and the pitch that was sung. */
import { useMemo } from 'react'
import { SAMPLE_RATE_HZ } from '../../../core/audio/frames'
import { phraseLevels, type PhraseLevel } from '../../../core/edits/even-out'
import { gainsInSong, type GainInSong } from '../../../core/edits/stretch-level'
import { movesInSong, type MoveInSong } from '../../../core/edits/stretch-time'
import { mendsIn, notesIn, type MendInSong, type NoteInSong } from '../../../core/prints/laid-in'
import { gainAlong, gainPointsOf } from '../../../core/edits/gain-points'
import { laidOver } from '../../../core/prints/laid-over'
import type { Layer, LineId, Song, Take } from '../../../core/song/schema'
import { currentComp, overlapFrames, requireTake, type FrameRange } from '../../../core/song/select'
import { placeWords, type PlacedWord } from '../../../core/song/words'
import { soundingAt, timeMapOf } from '../../../core/tune/time-map'
import { centsOf } from '../../../core/voice/notes'
import { heardIn } from '../../song/hear-takes'
import { useSong } from '../../song/song-store'
import { rangeOf, selectedLines, useView } from '../../song/view-store'
import { analysedTake, sungBy, useVoices } from '../../song/voices'

/** By hop of a stretch that is played. */
export interface SungPitch {
  startFrame: number
  /** Where a hop of it sounds. */
  frameAt: (hop: number) => number
  /** NaN where there is no pitch. */
  cents: Float32Array
  /** Mean power as it sounds, with the gains that are laid over it. */
  power: Float32Array
}

export interface Line {
  song: Song
  layer: Layer
  range: FrameRange
  title: string
  /** If just one is selected. */
  lineId: LineId | null
  notes: NoteInSong[]
  mends: MendInSong[]
  gains: GainInSong[]
  moves: MoveInSong[]
  /** Those that are sung in the stretch, with what is laid over them. */
  phrases: PhraseLevel[]
  onsetFrames: number[]
  words: PlacedWord[]
  pitches: SungPitch[]
  /** Something is played, and was not listened to yet. */
  isListening: boolean
  isPlayed: boolean
  /** Tops are cut off in what is played, here or elsewhere in its takes. */
  isClipped: boolean
}

/** Around a line so much is looked at: it may begin early, and what follows it is heard. */
const BESIDE_FRAMES = 12_000
/** A longer selection shows its first so much. */
const MOST_FRAMES = 30 * SAMPLE_RATE_HZ

export function useLine(layer: Layer): Line {
  const song = useSong(current => current)
  const selection = useView(state => state.selection)
  const range = useMemo(() => {
    const { startFrame, endFrame } = rangeOf(song, selection)
    return { startFrame: startFrame - BESIDE_FRAMES, endFrame: Math.min(endFrame, startFrame + MOST_FRAMES) + BESIDE_FRAMES }
  }, [song, selection])
  const picks = useMemo(() => currentComp(layer).picks.filter(pick => overlapFrames(pick, range) > 0), [layer, range])
  const takes = useMemo(() => picks.map(pick => requireTake(song, pick.takeId)), [picks, song])
  const voices = useVoices(takes)
  return useMemo(() => {
    const takeOf = new Map<string, Take>(takes.map(take => [take.id, take]))
    const isShown = ({ startFrame, endFrame }: FrameRange) =>
      (startFrame + endFrame) / 2 >= range.startFrame && (startFrame + endFrame) / 2 < range.endFrame - BESIDE_FRAMES
    const notes = notesIn(song, layer, range, id => {
      const take = takeOf.get(id)!
      const analysis = voices.get(take.assetId)
      return analysis ? heardIn(take, analysis) : null
    }).filter(isShown)
    const lines = selectedLines(song, selection).filter(line => line.startFrame < range.endFrame)
    const voiceOf = (id: Take['assetId']) => voices.get(id) ?? null
    const words = lines.flatMap(line => {
      const pick = picks.find(entry => overlapFrames(entry, line) > 0)
      const analysed = pick && analysedTake(takeOf.get(pick.takeId)!, pick.nudgeFrames, voiceOf)
      return placeWords(line, analysed ? sungBy(analysed) : null)
    })
    const pitches = picks.flatMap((pick): SungPitch[] => {
      const take = takeOf.get(pick.takeId)!
      const analysis = voices.get(take.assetId)
      if (!analysis) return []
      const hopFrames = Math.round(analysis.hopSeconds * SAMPLE_RATE_HZ)
      const origin = take.originFrame + pick.nudgeFrames
      const from = Math.max(0, Math.ceil((Math.max(pick.startFrame, range.startFrame) - origin) / hopFrames))
      const to = Math.min(analysis.f0Hz.length, Math.floor((Math.min(pick.endFrame, range.endFrame) - origin) / hopFrames))
      const cents = analysis.f0Hz.slice(from, Math.max(from, to)).map(centsOf)
      const decibelsAt = gainAlong(pick.asSung ? [] : gainPointsOf(laidOver(song, layer, take).gains))
      const power = analysis.weightedPower
        .slice(from, Math.max(from, to))
        .map((value, i) => value * 10 ** ((decibelsAt((from + i) * hopFrames) + pick.gainDecibels) / 10))
      const times = timeMapOf(pick.asSung ? [] : take.edits.times)
      const frameAt = (hop: number) => origin + soundingAt(times, (from + hop) * hopFrames)
      return [{ startFrame: origin + from * hopFrames, frameAt, cents, power }]
    })
    const title = lines.length === 1 ? `${lines[0]!.section.name}, line ${lines[0]!.number}` : lines.length > 1 ? `${lines.length} lines` : 'the whole song'
    return {
      song,
      layer,
      range,
      title,
      lineId: lines.length === 1 ? lines[0]!.line.id : null,
      notes,
      mends: mendsIn(song, layer, range),
      gains: gainsInSong(song, layer, range),
      moves: movesInSong(song, layer, range),
      phrases: phraseLevels(song, layer, take => voices.get(take.assetId) ?? null).filter(isShown),
      onsetFrames: picks.flatMap(pick => {
        const analysed = analysedTake(takeOf.get(pick.takeId)!, pick.nudgeFrames, voiceOf)
        const onsets = analysed ? sungBy(analysed).onsetFrames : []
        return onsets.filter(frame => frame >= Math.max(pick.startFrame, range.startFrame) && frame < Math.min(pick.endFrame, range.endFrame))
      }),
      words,
      pitches,
      isListening: takes.some(take => !voices.has(take.assetId)),
      isPlayed: picks.length > 0,
      isClipped: takes.some(take => (take.heard?.clipped ?? voices.get(take.assetId)?.clipped ?? []).length > 0),
    }
  }, [song, layer, range, selection, picks, takes, voices])
}
