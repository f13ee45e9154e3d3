/** Laying a section's lines by tapping along: one tap as each line begins. */
import { useState } from 'react'
import { layTappedLines } from '../../../core/song/lay-lyrics'
import type { Section } from '../../../core/song/schema'
import { sectionRange } from '../../../core/song/select'
import { makeId } from '../../../storage/database'
import { count } from '../../shared/format'
import { Pill } from '../../shared/parts'
import { play, playheadFrame, stopPlaying } from '../../song/live'
import { currentSong, edit } from '../../song/song-store'

export function TapLines({ section }: { section: Section }) {
  const [taps, setTaps] = useState<number[] | null>(null)
  const begin = () => {
    setTaps([])
    void play(sectionRange(currentSong(), section).startFrame)
  }
  const finish = () => {
    stopPlaying()
    if (taps && taps.length > 0) edit(`tap the lines of ${section.name}`, song => layTappedLines(song, { sectionId: section.id, frames: taps, makeId }))
    setTaps(null)
  }
  if (taps === null) {
    return (
      <Pill onClick={begin} title="Plays the section: tap as each line begins">
        Tap its lines
      </Pill>
    )
  }
  return (
    <>
      <Pill chosen onClick={() => setTaps([...taps, playheadFrame()])} autoFocus title="Click, or press Enter, as each line begins">
        A line begins
      </Pill>
      <Pill onClick={finish}>{taps.length === 0 ? 'Never mind' : `Lay ${count(taps.length, 'line')}`}</Pill>
    </>
  )
}
