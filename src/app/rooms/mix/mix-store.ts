/** What the Mix room looks at. */
import { create } from 'zustand'
import type { RecipePlace } from '../../../core/mix/recipes'
import type { Ridden } from '../../../core/mix/rides'
import { USUAL_THROW_DECIBELS } from '../../../core/mix/throws'
import type { MixId } from '../../../core/song/kept-mix-schema'
import type { SpaceId, StepId, ThrowTail } from '../../../core/song/mix-schema'
import type { LayerId, LineId } from '../../../core/song/schema'

export type Sheet = 'first' | 'recipe' | 'spaces' | 'throws' | 'colours' | 'ride' | 'beat' | 'compare' | 'output'

interface MixView {
  sheet: Sheet
  place: RecipePlace
  /** Opened of the recipe; null: the first. */
  stepId: StepId | null
  /** Null: the first. */
  spaceId: SpaceId | null
  /** What goes into it is shown role by role. */
  sendsByRole: boolean
  /** Whose ride is drawn; null: the first. */
  layerId: LayerId | null
  /** What of it. */
  ridden: Ridden
  /** Chosen of a line; null: its last word. */
  words: { lineId: LineId; from: number; to: number } | null
  /** Null: the first echo. */
  throwInto: SpaceId | null
  throwDecibels: number
  throwTail: ThrowTail
  /** The kept mix that was heard last. */
  mixId: MixId | null
}

export const useMix = create<MixView>(() => ({
  sheet: 'recipe',
  place: { kind: 'all' },
  stepId: null,
  spaceId: null,
  sendsByRole: false,
  layerId: null,
  ridden: { kind: 'level' },
  words: null,
  throwInto: null,
  throwDecibels: USUAL_THROW_DECIBELS,
  throwTail: 'rings',
  mixId: null,
}))

/** The recipe of the whole mix is looked at. */
export function openWhole(): void {
  useMix.setState({ sheet: 'recipe', place: { kind: 'mix' }, stepId: null })
}

/** A voice is chosen: its own recipe and its own ride are looked at. */
export function chooseVoice(layerId: LayerId): void {
  useMix.setState({ layerId, place: { kind: 'layer', layerId }, stepId: null })
}
