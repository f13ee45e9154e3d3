/** One thing that is laid on the line, heard with it and without it, as loud. */
import { SAMPLE_RATE_HZ } from '../../../core/audio/frames'
import type { LaidThing } from '../../../core/mix/heard'
import type { NoteInSong } from '../../../core/prints/laid-in'
import type { FrameRange } from '../../../core/song/select'
import { hearAsLoud, hearTheSong } from '../../song/equal-loudness'
import { playStretch } from '../../song/live'
import { usePrints } from '../../song/prints'
import { currentSong } from '../../song/song-store'
import { useView } from '../../song/view-store'
import { alone } from './as-sung'
import type { Laid } from './laid-on'
import { keyOfNote, useTidy } from './tidy-store'
import type { Line } from './use-line'

/** Heard beside it. */
const AROUND_FRAMES = 0.8 * SAMPLE_RATE_HZ
const MOST_WAIT_MILLISECONDS = 4_000

/** What is to be heard with and without. */
export interface Alone extends FrameRange {
  key: string
  thing: LaidThing
}

export async function hearWithOrWithout({ key, startFrame, endFrame, thing }: Alone, { layer }: Line): Promise<void> {
  const { view } = useView.getState()
  const range = { startFrame: Math.max(0, Math.round(startFrame - AROUND_FRAMES)), endFrame: Math.round(endFrame + AROUND_FRAMES) }
  if (view.kind === 'without' && useTidy.getState().without === key) {
    hearTheSong()
    return playStretch(range)
  }
  useTidy.setState({ without: key })
  await hearAsLoud(alone(currentSong(), layer.id), gainDecibels => ({ kind: 'without', layerId: layer.id, gainDecibels, laid: thing }), range)
  await untilMade()
  // The room was left meanwhile, or something else is heard.
  if (useView.getState().view.kind === 'without') await playStretch(range)
}

export function aloneOf(laid: Laid): Alone {
  const { startFrame, endFrame } = laid.kind === 'mend' ? laid.mend : laid.kind === 'gain' ? laid.gain : laid.move
  return { key: laid.key, startFrame, endFrame, thing: thingOf(laid) }
}

/** A note as it was sung, and as it is drawn. */
export function noteAlone(at: NoteInSong): Alone {
  const [startFrame, endFrame] = [at.startFrame, at.endFrame]
  const note = { startFrame: startFrame - at.originFrame, endFrame: endFrame - at.originFrame }
  return { key: keyOfNote(at), startFrame, endFrame, thing: { kind: 'note', takeId: at.takeId, note } }
}

function thingOf(laid: Laid): LaidThing {
  if (laid.kind === 'mend') return { kind: 'mend', takeId: laid.mend.takeId, mend: laid.mend.mend }
  if (laid.kind === 'move') return { kind: 'edits', takeIds: [laid.move.takeId], editIds: laid.move.editIds }
  return { kind: 'edits', takeIds: laid.gain.parts.map(part => part.takeId), editIds: laid.gain.parts.map(part => part.edit.id) }
}

/** What has to be made for it is there, or takes too long. */
function untilMade(): Promise<void> {
  if (usePrints.getState().waiting === 0) return Promise.resolve()
  return new Promise(resolve => {
    const done = () => {
      clearTimeout(timer)
      forget()
      resolve()
    }
    const timer = setTimeout(done, MOST_WAIT_MILLISECONDS)
    const forget = usePrints.subscribe(state => state.waiting === 0 && done())
  })
}
