/** The ladder: the key's notes as rungs, the words at the height they were sung, the sung pitch a thread, the wanted one a stitch. */
import { Box, chakra } from '@chakra-ui/react'
import { useId, useMemo, useRef } from 'react'
import type { NoteInSong } from '../../../core/prints/laid-in'
import { gainOfStretch, type StretchGain } from '../../../core/edits/stretch-level'
import type { Song } from '../../../core/song/schema'
import { Playhead } from '../../shared/playhead'
import { useWidth } from '../../shared/use-width'
import { useRoleColour } from '../../theme/roles'
import { frameOf, HEIGHT, heightsOf, LEFT, RIGHT, type Frame } from './ladder-frame'
import { ChosenMend, Offs, Words } from './ladder-labels'
import { FadeHandles, LevelSurface, StretchHem } from './level-handles'
import { GainLine, LevelCloth } from './level-lines'
import { Mark, Rungs, Thread, Wanted } from './ladder-lines'
import { offWords } from './note-words'
import { keyOfMend, keyOfNote, useTidy } from './tidy-store'
import type { Line } from './use-line'
import type { Stretch } from './use-stretch'

interface LadderProps {
  line: Line
  stretch: Stretch
  /** Gains that are shown before they are laid. */
  proposed: readonly StretchGain[]
  onNote: (note: NoteInSong) => void
}

export function Ladder({ line, stretch, proposed, onNote }: LadderProps) {
  const box = useRef<HTMLDivElement>(null)
  const inside = useId()
  const width = useWidth(box)
  const colour = useRoleColour(line.layer.role)
  const frame = useMemo(() => frameOf(line, width), [line, width])
  const chosen = useTidy(state => state.note)
  const chosenMend = useTidy(state => state.mend)
  const gain = gainOfStretch(line.song, line.layer, stretch)
  return (
    <Box ref={box} position="relative" height={`${HEIGHT}px`} bg="sunken" borderRadius="card" overflow="hidden" role="group" aria-label="Notes of the line">
      {width > 0 ? (
        <>
          <svg aria-hidden width={width} height={HEIGHT} style={{ position: 'absolute', inset: 0 }}>
            <Rungs song={line.song} range={line.range} frame={frame} />
            <clipPath id={inside}>
              <rect x={LEFT} y={0} width={Math.max(0, frame.right - LEFT)} height={HEIGHT} />
            </clipPath>
            <g clipPath={`url(#${inside})`}>
              {line.pitches.map(pitch => (
                <LevelCloth key={pitch.startFrame} pitch={pitch} frame={frame} colour={colour} />
              ))}
            </g>
            <StretchHem stretch={stretch} frame={frame} />
            {line.gains.map(entry => (
              <GainLine key={entry.parts[0]!.edit.id} gain={entry} frame={frame} />
            ))}
            {proposed.map(entry => (
              <GainLine key={entry.stretch.startFrame} gain={{ ...entry, ...entry.stretch }} frame={frame} isProposed />
            ))}
            <g clipPath={`url(#${inside})`}>
              {line.pitches.map(pitch => (
                <Thread key={pitch.startFrame} pitch={pitch} frame={frame} colour={colour} />
              ))}
              {line.notes.map(note => (
                <Wanted key={keyOfNote(note)} note={note} frame={frame} colour={colour} />
              ))}
            </g>
            {line.mends.map(mend => (
              <Mark key={keyOfMend(mend)} mend={mend} frame={frame} isChosen={keyOfMend(mend) === chosenMend} />
            ))}
          </svg>
          <Box position="absolute" top={0} bottom={0} left={`${LEFT}px`} right={`${RIGHT}px`} pointerEvents="none">
            <Playhead view={line.range} />
          </Box>
          <LevelSurface frame={frame} />
          {gain ? <FadeHandles layerId={line.layer.id} gain={gain} frame={frame} /> : null}
          <Words line={line} frame={frame} />
          <Offs line={line} frame={frame} />
          <ChosenMend line={line} frame={frame} chosen={chosenMend} />
          {line.notes.map((note, i) => (
            <NoteButton
              key={keyOfNote(note)}
              note={note}
              song={line.song}
              frame={frame}
              isChosen={keyOfNote(note) === chosen}
              isFirst={i === 0 && !line.notes.some(other => keyOfNote(other) === chosen)}
              onChoose={onNote}
            />
          ))}
        </>
      ) : null}
    </Box>
  )
}

const Spot = chakra('button', {
  base: {
    position: 'absolute',
    borderRadius: '8px',
    borderWidth: '1px',
    borderColor: 'transparent',
    cursor: 'pointer',
    textAlign: 'left',
    _hover: { borderColor: 'seamline' },
    _pressed: { borderColor: 'brand', borderStyle: 'dashed' },
  },
})

interface NoteButtonProps {
  note: NoteInSong
  song: Song
  frame: Frame
  isChosen: boolean
  isFirst: boolean
  onChoose: (note: NoteInSong) => void
}

function NoteButton({ note, song, frame, isChosen, isFirst, onChoose }: NoteButtonProps) {
  const [top, bottom] = heightsOf(note, frame)
  const left = frame.x(note.startFrame)
  return (
    <Spot
      data-note
      type="button"
      aria-pressed={isChosen}
      aria-label={offWords(note, song)}
      tabIndex={isChosen || isFirst ? 0 : -1}
      onClick={() => onChoose(note)}
      style={{ left: left - 4, top: top - 9, width: Math.max(14, frame.x(note.endFrame) - left + 8), height: bottom - top + 18 }}
    />
  )
}
