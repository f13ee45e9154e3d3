/** A part as a tone: alone, or over the song as it is mixed, without the layer that it is for. */
import { useEffect } from 'react'
import type { View } from '../../../core/mix/heard'
import { makeTone } from '../../../core/made/make-tone'
import type { Layer, Song } from '../../../core/song/schema'
import { overlapFrames, type FrameRange } from '../../../core/song/select'
import { Pill } from '../../shared/parts'
import { ensureEngine, play, stopPlaying, useLive } from '../../song/live'
import { useView } from '../../song/view-store'

/** As mixed, with the part at the level of a voice. */
const AS_MIXED = { beat: 0, comp: 0, others: 0, guide: -3 }

export function HearPart({ song, layer, range }: { song: Song; layer: Layer; range: FrameRange }) {
  const view = useView(state => state.view)
  const playing = useLive(state => state.playing)
  const isOver = view.kind === 'booth' && playing
  const alone = async () => {
    const engine = await ensureEngine()
    const notes = layer.part
      .filter(note => overlapFrames(note, range) > 0)
      .map(note => ({ midi: note.midi, startFrame: note.startFrame - range.startFrame, endFrame: note.endFrame - range.startFrame }))
    await engine?.playBeside(makeTone(range.endFrame - range.startFrame, notes, song.beat.tuningCents), false)
  }
  const over = () => {
    if (isOver) return stopPlaying()
    const asked: View = { kind: 'booth', layerId: layer.id, hear: 'stack', guide: 'tone', recorded: range, decibels: AS_MIXED }
    useView.setState({ view: asked })
    void play(range.startFrame)
  }
  // What was heard so is heard as mixed again, whatever is looked at next.
  useEffect(
    () => () => {
      void useLive.getState().engine?.playBeside(null, false)
      if (useView.getState().view.kind === 'booth') useView.setState({ view: { kind: 'song' } })
    },
    [layer.id],
  )
  useEffect(() => {
    if (!playing && useView.getState().view.kind === 'booth') useView.setState({ view: { kind: 'song' } })
  }, [playing])
  return (
    <>
      <Pill size="xs" px={3} onClick={() => void alone()}>
        Hear it alone
      </Pill>
      <Pill size="xs" px={3} chosen={isOver} onClick={over}>
        Hear it over the song
      </Pill>
    </>
  )
}
