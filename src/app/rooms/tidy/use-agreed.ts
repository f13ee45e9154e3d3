/** What the layer's other takes sing where the line's notes are; they are listened to for it. */
import { useMemo } from 'react'
import { agreedNotes, type AgreedNote } from '../../../core/prints/agreed-notes'
import type { Take } from '../../../core/song/schema'
import { overlapFrames } from '../../../core/song/select'
import { nearestRung, type GuideNote } from '../../../core/tune/targets'
import { heardIn } from '../../song/hear-takes'
import { useVoices } from '../../song/voices'
import type { Line } from './use-line'

/** The last so many takes: each is listened to, and more say no more. */
const MOST_TAKES = 8
const NONE: AgreedNote[] = []

/** Only of a layer that is tuned. */
export function useAgreed({ song, layer, range, notes }: Line): AgreedNote[] {
  const isTuned = layer.tune !== null
  const others = useMemo(() => {
    const played = new Set(notes.map(({ takeId }) => takeId))
    const beside = (take: Take) => take.layerId === layer.id && !take.binned && !take.bounceOf && !played.has(take.id) && overlapFrames(take, range) > 0
    return isTuned ? song.takes.filter(beside).slice(-MOST_TAKES) : []
  }, [song, layer, range, notes, isTuned])
  const voices = useVoices(others)
  return useMemo(() => {
    const { key, colour, tuningCents } = song.beat
    if (!key) return NONE
    const sung = others.flatMap(take => {
      const analysis = voices.get(take.assetId)
      const heard = take.heard ?? (analysis ? heardIn(take, analysis) : null)
      if (!heard) return []
      return [
        heard.notes
          .map(([from, to, , , cents]): GuideNote => ({ startFrame: take.originFrame + from, endFrame: take.originFrame + to, cents }))
          .filter(note => overlapFrames(note, take) > 0),
      ]
    })
    return agreedNotes(notes, sung, cents => nearestRung(cents, { key, colour, tuningCents }))
  }, [song, notes, others, voices])
}
