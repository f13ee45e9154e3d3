/** Above the takes: the words under the phrases they belong to, and the strip on which one cuts. */
import { SAMPLE_RATE_HZ } from '../../../core/audio/frames'
import { Box, chakra } from '@chakra-ui/react'
import { memo, useDeferredValue, useMemo, type MouseEvent } from 'react'
import type { QuietReason } from '../../../core/comp/quiet-places'
import { overlapFrames, placedLines, type FrameRange } from '../../../core/song/select'
import { placeWords } from '../../../core/song/words'
import { onTape, Tape, useLiveView } from '../../shared/time-view'
import { seek } from '../../song/live'
import { goTo, sungIn } from './bench-store'
import { cutAt, quietPlacesIn, SNAP_FRAMES } from './comping'
import { LABEL_WIDTH } from './take-strip'
import type { Bench } from './use-bench'

const HEAD_HEIGHT = 58

const Word = chakra('button', {
  base: {
    position: 'absolute',
    top: '20px',
    fontFamily: 'heading',
    fontWeight: 600,
    fontSize: '14px',
    whiteSpace: 'nowrap',
    cursor: 'pointer',
    borderRadius: '4px',
    px: '1px',
    _hover: { color: 'brand' },
    _pressed: { color: 'brand', textDecoration: 'underline', textUnderlineOffset: '3px' },
  },
})

export const BenchHead = memo(function BenchHead({ bench }: { bench: Bench }) {
  // A pick is heard and drawn on its ribbon first; words and quiet places follow.
  const { song, layer, stretch, focused, view, voiceOf } = useDeferredValue(bench)
  const live = useLiveView()
  const wide = useMemo(() => beyond(view), [view])
  const words = useMemo(() => {
    const sung = sungIn(song, layer, voiceOf)
    const all = placedLines(song)
      .filter(line => overlapFrames(line, wide) > 0)
      .flatMap(line => placeWords(line, sung(line)).map(word => ({ ...word, line })))
    return legible(all, view)
  }, [song, layer, voiceOf, view, wide])
  const places = useMemo(() => quietPlacesIn(song, layer.id, focused?.takeId ?? null, wide, voiceOf), [song, layer.id, focused?.takeId, wide, voiceOf])
  const frameOfClick = (event: MouseEvent<HTMLElement>) => {
    const box = event.currentTarget.getBoundingClientRect()
    const { startFrame, endFrame } = live?.now ?? view
    return startFrame + ((event.clientX - box.left) / box.width) * (endFrame - startFrame)
  }
  const onCut = (event: MouseEvent<HTMLElement>) => {
    const frame = frameOfClick(event)
    const { width } = event.currentTarget.getBoundingClientRect()
    const { startFrame, endFrame } = live?.now ?? view
    const near = event.altKey ? undefined : [...places].sort((a, b) => Math.abs(a.frame - frame) - Math.abs(b.frame - frame))[0]
    const meant = near && Math.abs(near.frame - frame) < Math.min(SNAP_FRAMES, (SNAP_PIXELS / width) * (endFrame - startFrame)) ? near.frame : null
    cutAt(layer.id, meant ?? frame, { snap: !event.altKey && meant === null })
  }
  return (
    <Box flex={`0 0 ${HEAD_HEIGHT}px`} position="relative">
      <Box
        position="absolute"
        top={0}
        bottom={0}
        left={`${LABEL_WIDTH}px`}
        right="14px"
        overflow="hidden"
        onDoubleClick={event => seek(Math.round(frameOfClick(event)))}
      >
        <Tape clickable>
          {words.map(word => (
            <Word
              key={word.startFrame}
              style={onTape(word.startFrame)}
              aria-pressed={stretch.scope === 'word' && stretch.startFrame === word.startFrame}
              aria-label={`Choose the word ${word.word}`}
              tabIndex={-1}
              onClick={() =>
                goTo(song, {
                  scope: 'word',
                  title: word.word,
                  startFrame: word.startFrame,
                  endFrame: word.endFrame,
                  lineIds: [word.line.line.id],
                  sectionId: word.line.section.id,
                })
              }
            >
              {word.word}
            </Word>
          ))}
        </Tape>
      </Box>
      <Box
        position="absolute"
        bottom="2px"
        height="16px"
        left={`${LABEL_WIDTH}px`}
        right="14px"
        overflow="hidden"
        cursor="crosshair"
        borderRadius="4px"
        _hover={{ bg: 'card' }}
        title="Click to cut what is picked. Near a mark it snaps; hold Alt to cut freely."
        onClick={onCut}
      >
        <Tape clickable>
          {places.map(place => (
            <div key={place.frame} title={`Quiet: ${REASONS[place.reason]}`} style={{ ...MARK, ...MARKS[place.reason], ...onTape(place.frame) }} />
          ))}
        </Tape>
      </Box>
      <Box position="absolute" left={4} bottom="2px" color="ink.soft" fontSize="11px" aria-hidden>
        cut here ✂
      </Box>
    </Box>
  )
})

/** A quiet place so near to a click is meant by it. */
const SNAP_PIXELS = 12

const REASONS: Record<QuietReason, string> = { rest: 'a rest', 'before-breath': 'before a breath', consonant: 'in a consonant', soft: 'a soft spot' }

const INK = 'var(--chakra-colors-ink-soft)'
const MARK = { position: 'absolute', top: 3, bottom: 3, width: 4, marginLeft: -2, borderRadius: 2, border: `1.5px solid ${INK}` } as const
const MARKS: Record<QuietReason, object> = { rest: { background: INK }, 'before-breath': { background: INK }, consonant: {}, soft: { borderStyle: 'dotted' } }

/** What may come into view before the gesture rests. */
function beyond({ startFrame, endFrame }: FrameRange): FrameRange {
  const margin = Math.min(endFrame - startFrame, 10 * SAMPLE_RATE_HZ)
  return { startFrame: startFrame - margin, endFrame: endFrame + margin }
}

/** Room that a word takes, roughly, of the bench's width. */
const wordShare = (word: string) => (word.length * 8.2 + 6) / 800

/** Words that would not lie over the one before; the others are left out until one zooms in. */
function legible<T extends { word: string; startFrame: number }>(words: readonly T[], view: FrameRange): T[] {
  const shown: T[] = []
  const at = (word: T) => (word.startFrame - view.startFrame) / (view.endFrame - view.startFrame)
  for (const word of words) {
    const last = shown.at(-1)
    if (!last || at(word) >= at(last) + wordShare(last.word)) shown.push(word)
  }
  return shown
}
