/** What is heard while singing, as a view of the song; the song's own mix is not touched. */
import type { View } from '../../core/mix/heard'
import type { FrameRange } from '../../core/song/select'
import { useView } from '../song/view-store'
import { useBoothSettings } from './booth-settings'
import { useRecorder } from './recorder-store'

/** @param recorded The stretch that is sung anew, where the comp is silent; null while nothing is recorded. */
export function boothView(recorded: FrameRange | null): View {
  const { surround, guide, decibels } = useBoothSettings.getState()
  return {
    kind: 'booth',
    layerId: useView.getState().layerId,
    hear: surround,
    guide,
    recorded,
    decibels: { beat: decibels.beat, comp: decibels.comp, others: decibels.others, guide: decibels.guide },
  }
}

/** What is heard when nothing is recorded (any more). */
export function restHeadphoneMix(): void {
  useView.setState({ view: useRecorder.getState().inBooth ? boothView(null) : { kind: 'song' } })
}

/** Keeps what is heard in step with the settings while the Booth is open. @returns ends it: the song is heard as it is mixed. */
export function followHeadphoneMix(): () => void {
  const send = () => useView.setState({ view: boothView(useRecorder.getState().phase === 'idle' ? null : useRecorder.getState().range) })
  const click = () => useView.setState({ accentDecibels: useBoothSettings.getState().accentDecibels })
  useRecorder.setState({ inBooth: true })
  send()
  click()
  const forgets = [
    useBoothSettings.subscribe((state, before) => {
      if (state.surround !== before.surround || state.guide !== before.guide || state.decibels !== before.decibels) send()
      if (state.accentDecibels !== before.accentDecibels) click()
    }),
    useView.subscribe((state, before) => state.layerId !== before.layerId && send()),
  ]
  return () => {
    forgets.forEach(forget => forget())
    useRecorder.setState({ inBooth: false })
    if (useRecorder.getState().phase === 'idle') restHeadphoneMix()
  }
}
