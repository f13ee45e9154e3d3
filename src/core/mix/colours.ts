/** Colours: stretches of a layer that sound like something else. Where they lie, and the commands on them. */
import { produce } from 'immer'
import { anchorTo, type WordRange } from '../song/anchor'
import { COLOUR_FADE_RANGE_SECONDS, MOST_STEPS, type Colour, type ColourId, type RecipeStep } from '../song/mix-schema'
import type { Layer, LayerId, LineId, SectionId, Song } from '../song/schema'
import { placedLines, requireLayer, requirePlacedLine, sectionRange, type FrameRange } from '../song/select'
import { SAMPLE_RATE_HZ } from '../audio/frames'
import { rangeOfWords } from './throws'
import { partOfStep } from './part-of-step'
import { sungIn } from './words-sung'
import { laneOf, type Lane } from './lane'
import type { ColourPlan } from './plan'
import type { Step } from '../effects/chain'
import { currentComp } from '../song/select'

/** What a colour lies on: words of a line, a line, or a section. */
export type ColourPlace = { lineId: LineId; words: WordRange | null } | { sectionId: SectionId }

const USUAL_COLOUR = { amount: 1, fadeSeconds: 0.03 } as const

/** Command: a stretch of a layer in another colour. @throws RangeError if there are no such words or no such section. */
export function addColour(
  song: Song,
  {
    layerId,
    on,
    name,
    steps,
    amount = USUAL_COLOUR.amount,
    makeId,
  }: { layerId: LayerId; on: ColourPlace; name: string; steps: readonly RecipeStep[]; amount?: number; makeId: () => string },
): Song {
  const place = placeOf(song, on)
  return produce(song, draft => {
    const colour = { id: makeId() as ColourId, on: place, name: name.slice(0, 120), amount, fadeSeconds: USUAL_COLOUR.fadeSeconds }
    requireLayer(draft, layerId).colours.push({ ...colour, steps: steps.slice(0, MOST_STEPS).map(step => ({ ...step })) })
  })
}

function placeOf(song: Song, on: ColourPlace): Colour['on'] {
  if ('lineId' in on) return anchorTo(requirePlacedLine(song, on.lineId).line, on.words)
  if (!song.sections.some(({ id }) => id === on.sectionId)) throw new RangeError(`no section ${on.sectionId} in this song`)
  return on
}

/** Command: how much of a colour, how softly it begins and ends, or what it is. @throws RangeError if the layer has no such colour. */
export function setColour(
  song: Song,
  {
    layerId,
    colourId,
    amount,
    fadeSeconds,
    as,
  }: { layerId: LayerId; colourId: ColourId; amount?: number; fadeSeconds?: number; as?: { name: string; steps: readonly RecipeStep[] } },
): Song {
  const { min, max } = COLOUR_FADE_RANGE_SECONDS
  return produce(song, draft => {
    const colour = requireLayer(draft, layerId).colours.find(entry => entry.id === colourId)
    if (!colour) throw new RangeError(`no colour ${colourId} in this layer`)
    if (amount !== undefined) colour.amount = Math.max(0, Math.min(1, amount))
    if (fadeSeconds !== undefined) colour.fadeSeconds = Math.max(min, Math.min(max, fadeSeconds))
    if (as) Object.assign(colour, { name: as.name.slice(0, 120), steps: as.steps.map(step => ({ ...step })) })
  })
}

/** Command: colours go. */
export function removeColours(song: Song, { layerId, colourIds }: { layerId: LayerId; colourIds: readonly ColourId[] }): Song {
  if (!requireLayer(song, layerId).colours.some(({ id }) => colourIds.includes(id))) return song
  return produce(song, draft => {
    const layer = requireLayer(draft, layerId)
    layer.colours = layer.colours.filter(({ id }) => !colourIds.includes(id))
  })
}

/** Where a layer's colours sound now, in order; those whose words or section are gone are left out. */
export function coloursSung(song: Song, layer: Layer): { colour: Colour; at: FrameRange }[] {
  if (layer.colours.length === 0) return []
  const lines = placedLines(song)
  return layer.colours
    .flatMap(colour => {
      const { on } = colour
      const at = 'sectionId' in on ? rangeOfSection(song, layer, on.sectionId) : rangeOfWords(song, layer, on, lines)
      return at ? [{ colour, at: { startFrame: at.startFrame, endFrame: at.endFrame } }] : []
    })
    .sort((a, b) => a.at.startFrame - b.at.startFrame)
}

/** A section as it is sung: its first line may begin early. */
function rangeOfSection(song: Song, layer: Layer, sectionId: SectionId): FrameRange | null {
  const section = song.sections.find(({ id }) => id === sectionId)
  if (!section) return null
  const range = sectionRange(song, section)
  const [first] = placedLines(song).filter(placed => placed.section.id === sectionId)
  const sung = first && sungIn(song, layer, first)?.phrases.find(phrase => phrase.endFrame > first.startFrame)
  return { startFrame: Math.min(range.startFrame, first?.startFrame ?? Infinity, sung?.startFrame ?? Infinity), endFrame: range.endFrame }
}

const NONE: ColourPlan[] = []
const known = new WeakMap<Layer['colours'], { by: readonly unknown[]; plans: ColourPlan[] }>()

/** What colours are in the plan; the same objects while nothing of them changes. */
export function colourPlansOf(song: Song, layer: Layer): ColourPlan[] {
  if (layer.colours.length === 0) return NONE
  const { tidy, tune, together, paths, made, part } = layer
  const by = [currentComp(layer).picks, song.takes, song.sections, song.beat.grid, tidy, tune, together, paths, made, part]
  const before = known.get(layer.colours)
  if (before && by.every((value, i) => value === before.by[i])) return before.plans
  const plans = coloursSung(song, layer).flatMap(({ colour, at }): ColourPlan[] => {
    const steps = colour.steps.filter(step => step.enabled).map(({ id: _, enabled: __, ...step }) => partOfStep(step as Step, colour.amount))
    return colour.amount === 0 || steps.length === 0 ? [] : [{ id: colour.id, steps, share: shareOf(at, colour.fadeSeconds) }]
  })
  known.set(layer.colours, { by, plans })
  return plans
}

/** It is there when the stretch begins, and until it ends. */
function shareOf({ startFrame, endFrame }: FrameRange, fadeSeconds: number): Lane {
  const fade = Math.max(1, Math.round(fadeSeconds * SAMPLE_RATE_HZ))
  return laneOf([
    { frame: startFrame - fade, value: 0 },
    { frame: startFrame, value: 1 },
    { frame: Math.max(endFrame, startFrame + 1), value: 1 },
    { frame: Math.max(endFrame, startFrame + 1) + fade, value: 0 },
  ])
}
