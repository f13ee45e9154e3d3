/** Choosing among the takes of one line: what is focused, heard and picked. */
import { useQuery } from '@tanstack/react-query'
import { useCallback, useEffect, useState } from 'react'
import { matchGainDecibels } from '../../../core/comp/level-match'
import { checkPick, clearPicks, pickAt, pickTake, usesElsewhere } from '../../../core/comp/picks'
import { quietRange } from '../../../core/comp/quiet-spot'
import { SEAM_FRAMES } from '../../../core/mix/plan'
import { framesToSeconds } from '../../../core/audio/frames'
import type { LayerId, Take, TakeId } from '../../../core/song/schema'
import { currentComp, overlapFrames, requireLayer, requireTake, takesCovering, type PlacedLine } from '../../../core/song/select'
import { makeId } from '../../../storage/database'
import { isOnButton, isTyping } from '../../frame/use-song-keys'
import { currentSong, edit, useSong } from '../../song/song-store'
import { placedPeaksOf } from '../../song/sounds'
import { stepLine, useView } from '../../song/view-store'

export type Hearing = 'alone' | 'beat' | 'stack'

export interface Comping {
  /** The layer's own takes of the line, then takes of other layers that it plays there. */
  takes: Take[]
  focused: Take | null
  picked: Take | null
  hearing: Hearing
  /** By how much the focused take is turned to be as loud as the picked one. */
  matchDecibels: number
  seamText: string
  /** Layers that play a take's sound in this line. */
  usedBy: (takeId: TakeId) => string[]
  focus: (takeId: TakeId | null) => void
  hear: (hearing: Hearing) => void
  pick: (takeId: TakeId) => Promise<void>
  keepAndGoOn: () => Promise<void>
  clear: () => void
}

export function useComping(layerId: LayerId, line: PlacedLine): Comping {
  const song = useSong(current => current)
  const place = `${layerId}/${line.line.id}`
  // The focus holds for one line of one layer; elsewhere it begins at what is picked.
  const [focus, setFocus] = useState<{ place: string; takeId: TakeId | null }>({ place, takeId: null })
  const focusedId = focus.place === place ? focus.takeId : null
  const setFocusedId = useCallback((takeId: TakeId | null) => setFocus({ place, takeId }), [place])
  const [hearing, setHearing] = useState<Hearing>('stack')
  const range = { startFrame: line.startFrame, endFrame: line.endFrame }
  const pick = pickAt(song, layerId, (line.startFrame + line.endFrame) / 2) ?? currentComp(requireLayer(song, layerId)).picks.find(entry => overlapFrames(entry, range) > 0.5 * (range.endFrame - range.startFrame)) ?? null
  const picked = pick ? requireTake(song, pick.takeId) : null
  const own = takesCovering(song, layerId, range)
  const takes = picked && !own.some(take => take.id === picked.id) ? [...own, picked] : own
  const focused = takes.find(take => take.id === focusedId) ?? picked ?? takes[0] ?? null
  const match = useQuery({
    queryKey: ['level-match', picked?.id, focused?.id, range.startFrame, range.endFrame],
    queryFn: async () => {
      const [ground, take] = await Promise.all([placedPeaksOf(picked!), placedPeaksOf(focused!)])
      return ground && take ? matchGainDecibels(ground, take, range) : 0
    },
    enabled: picked !== null && focused !== null && picked.id !== focused.id,
  })
  const matchDecibels = picked && focused && picked.id !== focused.id ? (match.data ?? 0) : 0
  const auditioned = focused && focused.id !== picked?.id ? focused.id : null
  useEffect(() => {
    if (auditioned) useView.setState({ view: { kind: 'audition', layerId, takeId: auditioned, with: hearing, gainDecibels: matchDecibels } })
    else if (hearing === 'stack') useView.setState({ view: { kind: 'song' } })
    else useView.setState({ view: { kind: 'only', beat: hearing === 'beat', layerIds: [layerId] } })
  }, [auditioned, hearing, layerId, matchDecibels])
  useEffect(() => () => useView.setState({ view: { kind: 'song' } }), [])

  const pickFor = useCallback(
    async (takeId: TakeId) => {
      const take = requireTake(currentSong(), takeId)
      // A seam must be quiet in what sounds on both of its sides.
      const neighbours = currentComp(requireLayer(currentSong(), layerId)).picks.filter(entry => overlapFrames({ startFrame: line.startFrame - 24_000, endFrame: line.endFrame + 24_000 }, entry) > 0)
      const beside = [...new Set(neighbours.map(entry => entry.takeId))].filter(id => id !== takeId).map(id => requireTake(currentSong(), id))
      const peaks = (await Promise.all([take, ...beside].map(placedPeaksOf))).filter(entry => entry !== null)
      const wanted = quietRange(peaks, line)
      if (!checkPick(currentSong(), { layerId, takeId, ...wanted }).ok) return
      edit(`pick ${take.name.toLowerCase()} for “${(line.line.words || `line ${line.number}`).slice(0, 24)}”`, current => pickTake(current, { layerId, takeId, ...wanted, makeId }))
      setFocusedId(null)
    },
    [layerId, line, setFocusedId],
  )
  const keepAndGoOn = useCallback(async () => {
    if (focused && focused.id !== picked?.id) await pickFor(focused.id)
    stepLine(currentSong(), 1)
  }, [focused, picked, pickFor])
  const clear = useCallback(() => {
    edit('clear the line', current => clearPicks(current, { layerId, startFrame: pick?.startFrame ?? line.startFrame, endFrame: Math.min(pick?.endFrame ?? line.endFrame, line.endFrame + 24_000), makeId }))
  }, [layerId, line, pick])
  const step = (by: number) => {
    if (takes.length === 0) return
    const index = takes.findIndex(take => take.id === focused?.id)
    setFocusedId(takes[Math.max(0, Math.min(takes.length - 1, index + by))]!.id)
  }
  useEffect(() => {
    const onKey = (event: KeyboardEvent) => {
      if (isTyping(event) || event.ctrlKey || event.metaKey || event.altKey) return
      const actions: Record<string, () => void> = {
        ArrowDown: () => step(1),
        ArrowUp: () => step(-1),
        ArrowRight: () => stepLine(currentSong(), 1),
        ArrowLeft: () => stepLine(currentSong(), -1),
        p: () => void (focused && pickFor(focused.id)),
        Enter: () => void keepAndGoOn(),
        a: () => setHearing('alone'),
        b: () => setHearing('beat'),
        s: () => setHearing('stack'),
        c: () => setFocusedId(picked?.id ?? null),
        x: clear,
      }
      const action = actions[event.key]
      if (!action || (event.key === 'Enter' && isOnButton(event))) return
      event.preventDefault()
      action()
    }
    addEventListener('keydown', onKey)
    return () => removeEventListener('keydown', onKey)
  })
  return {
    takes,
    focused,
    picked,
    hearing,
    matchDecibels,
    seamText: pick ? `${edgeText('begins', pick.startFrame - line.startFrame)}, ${edgeText('ends', pick.endFrame - line.endFrame)}; seams of ${(framesToSeconds(SEAM_FRAMES) * 1_000).toFixed(0)} ms in the quietest spots` : '',
    usedBy: takeId => [...new Set(usesElsewhere(song, { takeId, layerId, startFrame: line.startFrame + 12_000, endFrame: line.endFrame - 12_000 }).map(use => requireLayer(song, use.layerId).name))],
    focus: setFocusedId,
    hear: setHearing,
    pick: pickFor,
    keepAndGoOn,
    clear,
  }
}

/** Where a pick's edge lies against the line's own; a pick that goes on over a second belongs to the neighbouring line too. */
function edgeText(verb: 'begins' | 'ends', frames: number): string {
  if (Math.abs(frames) > 48_000) return verb === 'begins' ? 'runs on from the line before' : 'runs on into the next line'
  const milliseconds = Math.round(framesToSeconds(frames) * 1_000)
  return milliseconds === 0 ? `${verb} at the line’s edge` : `${verb} ${Math.abs(milliseconds)} ms ${milliseconds < 0 ? 'before' : 'after'} the line’s edge`
}
