/** Commands on how layers are tidied and tuned, and on single mends. */
import { produce } from 'immer'
import type { MendKind } from '../song/edit-schema'
import type { LayerId, LineId, Song, TakeId } from '../song/schema'
import { requireLayer } from '../song/select'
import { TIDY_RANGE_DECIBELS, TUNE_RANGES, type LayerTune, type TidyPolicy, type TuneSettings, type TuneTo } from '../song/tidy-schema'
import { changeEdits, within, type EditCheck } from './commands'

/** Whether what is laid over all of a layer may change: a locked comp sounds as it does. */
export function checkPolicy(song: Song, layerIds: readonly LayerId[]): EditCheck {
  const compNames = layerIds.flatMap(id => {
    const layer = requireLayer(song, id)
    return layer.comps.filter(({ locked }) => locked).map(({ name }) => `${name} of ${layer.name}`)
  })
  return compNames.length > 0 ? { ok: false, reason: 'locked', compNames } : { ok: true }
}

/** Command: layers are tidied so, or left as they were sung. @throws RangeError if `checkPolicy` says no. */
export function setTidy(song: Song, { layerIds, tidy }: { layerIds: readonly LayerId[]; tidy: TidyPolicy | null }): Song {
  const lowered = (decibels: number) => within(decibels, TIDY_RANGE_DECIBELS)
  const laid = tidy && {
    ...tidy,
    breathDecibels: lowered(tidy.breathDecibels),
    essDecibels: lowered(tidy.essDecibels),
    popDecibels: lowered(tidy.popDecibels),
    restDecibels: lowered(tidy.restDecibels),
    finalDecibels: lowered(tidy.finalDecibels),
  }
  return changeLayers(song, layerIds, layer => (layer.tidy = laid))
}

/** Command: layers are tuned so, or left as they were sung. @throws RangeError if `checkPolicy` says no. */
export function setTune(song: Song, { layerIds, tune }: { layerIds: readonly LayerId[]; tune: LayerTune | null }): Song {
  const laid = tune && { ...tune }
  for (const key of Object.keys(TUNE_RANGES) as (keyof TuneSettings)[]) if (laid) laid[key] = within(laid[key], TUNE_RANGES[key])
  return changeLayers(song, layerIds, layer => (layer.tune = laid))
}

/** Command: what one line's notes are drawn to; null: to what all of the layer's are. The same song comes back for a layer that is not tuned. */
export function setTuneOfLine(song: Song, { layerId, lineId, to }: { layerId: LayerId; lineId: LineId; to: TuneTo | null }): Song {
  const { tune } = requireLayer(song, layerId)
  if (!tune) return song
  const others = tune.lines.filter(line => line.lineId !== lineId)
  return setTune(song, { layerIds: [layerId], tune: { ...tune, lines: to ? [...others, { lineId, to }] : others } })
}

/**
 * Command: one mend of a take is otherwise than its layer asks: another amount, or null for not at all; undefined: as the layer asks.
 * @throws RangeError as the commands on edits do.
 */
export function setMend(
  song: Song,
  { takeId, kind, startFrame, decibels }: { takeId: TakeId; kind: MendKind; startFrame: number; decibels: number | null | undefined },
): Song {
  if (!Number.isInteger(startFrame) || startFrame < 0) throw new RangeError(`a mend begins at a whole frame of the take, got ${startFrame}`)
  return changeEdits(song, takeId, edits => {
    const others = edits.mends.filter(mend => mend.kind !== kind || mend.startFrame !== startFrame)
    if (decibels === undefined) return { ...edits, mends: others }
    const amount = decibels === null ? null : within(decibels, TIDY_RANGE_DECIBELS)
    return { ...edits, mends: [...others, { kind, startFrame, decibels: amount }].sort((a, b) => a.startFrame - b.startFrame) }
  })
}

function changeLayers(song: Song, layerIds: readonly LayerId[], change: (layer: Song['layers'][number]) => void): Song {
  const check = checkPolicy(song, layerIds)
  if (!check.ok) throw new RangeError(`locked: ${check.compNames.join(', ')}`)
  return produce(song, draft => {
    for (const id of layerIds) change(requireLayer(draft, id))
  })
}
