/** From a stored capture to takes in the song, played where nothing was. */
import { framesToSeconds } from '../../core/audio/frames'
import { pickAllInto } from '../../core/comp/pick-into'
import { makeLayersForTakes } from '../../core/layers/found-takes'
import { houseTakes } from '../../core/song/house-takes'
import { cutPasses, findFirstSound, flawsOfPass, type CaptureFlaw, type CapturePlacement, type PassMark, type PassMarks } from '../../core/song/recording'
import type { AssetId, LayerId, Song, Take, TakeId } from '../../core/song/schema'
import { currentComp, lengthOf, overlapFrames, placedLines, requireLayer, type FrameRange } from '../../core/song/select'
import { addTakes, makeTake, nextPass } from '../../core/song/takes'
import { makeId } from '../../storage/database'
import { endRecording } from '../../storage/recordings'
import { discardAsset } from '../../storage/sounds'
import { keptSoFar } from '../song/keeper'
import { editBesideHistory, editWith, useSongStore } from '../song/song-store'
import { readPeaksOf } from '../song/sounds'
import { storedSound } from '../song/stored-sound'
import { useRecorder } from './recorder-store'
import { noteEstimated, type KnownRoundTrip } from './round-trip'
import { listenToTakes } from './take-facts'

export interface KeptCapture {
  assetId: AssetId
  layerId: LayerId
  frames: number
  placement: CapturePlacement
  roundTrip: KnownRoundTrip
  startedAt: string
  inputName: string
  flaws: readonly CaptureFlaw[]
  marks: PassMarks
  /** The engine's opening it was made in, if it was made in this session. */
  opening?: number
  /** The song when it was begun, if it was begun in this session. */
  songThen?: Song
  /** The singer threw it away. */
  toBin?: boolean
}

/** Makes takes of a stored capture; they are no step of undo. Where nothing was picked yet, the first of them sounds. */
export async function keepCapture({
  assetId,
  layerId,
  frames,
  placement,
  roundTrip,
  startedAt,
  inputName,
  flaws,
  marks,
  opening,
  songThen,
  toBin = false,
}: KeptCapture): Promise<void> {
  const peaks = await readPeaksOf(assetId)
  const song = useSongStore.getState().history?.song
  // The song was closed meanwhile: the recording is offered when it is opened again. One that has become takes is kept.
  if (!song || song.takes.some(take => take.assetId === assetId)) return
  const passes = cutPasses(frames, placement, peaks && findFirstSound(peaks))
  const first = nextPass(song, layerId)
  const said = (pass: number, mark: PassMark) => marks[pass]?.includes(mark) ?? false
  const takes = passes.map((pass): Take =>
    makeTake({
      id: makeId() as TakeId,
      layerId,
      pass: first + pass.pass - 1,
      assetId,
      originFrame: pass.originFrame,
      startFrame: pass.startFrame,
      endFrame: pass.endFrame,
      roundTripFrames: placement.roundTripFrames,
      roundTripSource: roundTrip.source,
      roundTripMeasuredAt: roundTrip.measuredAt,
      recordedAt: laterBy(startedAt, framesToSeconds(pass.startFrame - pass.originFrame)),
      inputName,
      flaws: flawsOfPass(flaws, pass),
      starred: said(pass.pass, 'star'),
      spare: said(pass.pass, 'spare'),
      binned: toBin || pass.beside || said(pass.pass, 'bin'),
    }),
  )
  if (takes.length === 0) return discardCapture(assetId)
  // A layer that was undone meanwhile comes back for them.
  const added = editBesideHistory(current => makeLayersForTakes(houseTakes(addTakes(current, { takes }), songThen ?? current), makeId))
  await keptSoFar()
  // Until the takes are in storage the recording stays on the list of those left behind.
  if (!added.ok || useSongStore.getState().keeping.kind === 'failed') return
  await endRecording(assetId)
  if (passes.some(pass => pass.beside) && !toBin) useRecorder.setState({ stopped: 'beside-range' })
  useRecorder.setState({ lastTakeIds: takes.map(take => take.id) })
  if (opening !== undefined && (roundTrip.source === 'estimated' || roundTrip.source === 'remembered'))
    noteEstimated(
      opening,
      takes.map(take => take.id),
    )
  const sounding = takes.find(take => !take.binned)
  if (sounding) await pickWhereEmpty(sounding, placement.range)
  void listenToTakes(takes.map(take => take.id))
  const { onTaken } = useRecorder.getState()
  useRecorder.setState({ onTaken: null })
  onTaken?.(takes.map(take => take.id))
}

/** Each pass of a loop has its own time of day. */
function laterBy(moment: string, seconds: number): string {
  return new Date(Date.parse(moment) + 1_000 * Math.max(0, seconds)).toISOString()
}

/** For a capture that holds nothing. What a take plays is never discarded. */
export async function discardCapture(assetId: AssetId): Promise<void> {
  await endRecording(assetId)
  if (!useSongStore.getState().history?.song.takes.some(take => take.assetId === assetId)) await discardAsset(assetId)
}

/** More of a line than this is played already: it is not empty. */
const PLAYED_FRAMES = 12_000

/** A take that has just come plays where its layer was silent, by the rule of every pick. */
export async function pickWhereEmpty(take: Take, range: FrameRange): Promise<void> {
  if (!useSongStore.getState().history) return
  await editWith(`play ${take.name.toLowerCase()}`, async song => {
    if (!song.layers.some(layer => layer.id === take.layerId)) return { song, answer: null }
    const { picks } = currentComp(requireLayer(song, take.layerId))
    const lines = placedLines(song)
    const free = lines.filter(
      line =>
        overlapFrames(line, range) > 0 && overlapFrames(line, take) > 0.5 * lengthOf(line) && !picks.some(pick => overlapFrames(pick, line) > PLAYED_FRAMES),
    )
    const stretches: FrameRange[] = lines.length > 0 ? free : picks.some(pick => overlapFrames(pick, range) > 0) ? [] : [range]
    const wishes = stretches.map(({ startFrame, endFrame }) => ({ layerId: take.layerId, takeId: take.id, asked: { startFrame, endFrame }, makeId }))
    return { song: (await pickAllInto(song, wishes, storedSound)).song, answer: null }
  })
}
