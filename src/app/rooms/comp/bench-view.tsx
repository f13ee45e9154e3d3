/** The bench: bars and words above, the takes under each other at one time scale, the thread and its seams through what is picked. */
import { Box, chakra } from '@chakra-ui/react'
import { useVirtualizer } from '@tanstack/react-virtual'
import { useCallback, useEffect, useMemo, useRef, type MouseEvent } from 'react'
import type { Proposal } from '../../../core/comp/propose-comp'
import { requireTake, placedLines, requireLayer, overlapFrames, type FrameRange } from '../../../core/song/select'
import type { LayerId, TakeId } from '../../../core/song/schema'
import { placeWords } from '../../../core/song/words'
import { BarLines } from '../../shared/bar-lines'
import { Playhead } from '../../shared/playhead'
import { useVoices } from '../../song/voices'
import { seek } from '../../song/live'
import { goTo, setBench, sungIn, useBench, type Row } from './bench-store'
import { cutAt, quietPlacesIn, SNAP_FRAMES } from './comping'
import { FaintThread } from './faint-thread'
import { useRowFacts } from './row-facts'
import { rowKey } from './rows'
import { SeamHandles } from './seam-handles'
import { LABEL_WIDTH, TakeStrip } from './take-strip'
import { Thread } from './thread'
import type { Bench } from './use-bench'

const HEAD_HEIGHT = 58
const ROW_HEIGHT = 74
const NOTES_ROW_HEIGHT = 108

const Word = chakra('button', { base: { position: 'absolute', top: '20px', fontFamily: 'heading', fontWeight: 600, fontSize: '14px', whiteSpace: 'nowrap', cursor: 'pointer', borderRadius: '4px', px: '1px', _hover: { color: 'brand' }, _pressed: { color: 'brand', textDecoration: 'underline', textUnderlineOffset: '3px' } } })

export function BenchView({ bench, onPick, proposals }: { bench: Bench; onPick: (row: Row) => void; proposals: readonly Proposal[] }) {
  const { song, layer, stretch, rows, focused, view } = bench
  const notes = useBench(state => state.notes)
  const several = useBench(state => state.sideBySide)
  const scroller = useRef<HTMLDivElement>(null)
  const rowHeight = notes ? NOTES_ROW_HEIGHT : ROW_HEIGHT
  // eslint-disable-next-line react-hooks/incompatible-library -- nothing of it is handed to memoised parts but plain numbers
  const virtual = useVirtualizer({ count: rows.length, getScrollElement: () => scroller.current, estimateSize: () => rowHeight, overscan: 1, getItemKey: index => rowKey(rows[index]!) })
  useEffect(() => virtual.measure(), [virtual, rowHeight])
  const shown = virtual.getVirtualItems()
  // What is near the view is listened to; the rest waits until it is scrolled to.
  const first = shown[0]?.index ?? 0
  const last = shown.at(-1)?.index ?? -1
  const listened = useMemo(() => [...new Set(rows.slice(first, last + 1).map(row => row.takeId))].map(id => requireTake(song, id)), [rows, first, last, song])
  const voices = useVoices(listened)
  const facts = useRowFacts(song, rows, stretch, voices)
  const focusIndex = focused ? rows.findIndex(row => rowKey(row) === rowKey(focused)) : -1
  useEffect(() => {
    if (focusIndex >= 0) virtual.scrollToIndex(focusIndex, { align: 'auto' })
  }, [virtual, focusIndex])
  const yOf = useCallback(
    (layerId: LayerId) => (takeId: TakeId) => {
      const index = rows.findIndex(row => row.layerId === layerId && row.takeId === takeId)
      return index < 0 ? null : (index + 0.5) * rowHeight
    },
    [rows, rowHeight],
  )
  const layers = useMemo(() => [...new Set(rows.map(row => row.layerId))].map(id => ({ layer: requireLayer(song, id), yOf: yOf(id) })), [rows, song, yOf])
  useWheel(scroller, view)
  return (
    <Box role="group" aria-label="The takes" position="relative" display="flex" flexDirection="column" height="100%" minH={0}>
      <Box position="absolute" top={0} bottom={0} left={`${LABEL_WIDTH}px`} right="14px" pointerEvents="none" zIndex={3}>
        <BarLines grid={song.beat.grid} view={view} top="6px" />
        <Playhead view={view} />
      </Box>
      <Head bench={bench} />
      <Box ref={scroller} flex="1 1 auto" minH={0} overflowY="auto" overflowX="hidden" tabIndex={-1} style={{ scrollbarGutter: 'auto' }}>
        <Box position="relative" style={{ height: `${virtual.getTotalSize()}px` }}>
          {shown.map(item => {
            const row = rows[item.index]!
            const take = requireTake(song, row.takeId)
            return (
              <Box key={item.key} position="absolute" left={0} right={0} style={{ top: `${item.start}px`, height: `${item.size}px` }}>
                <TakeStrip
                  song={song}
                  row={row}
                  take={take}
                  layer={requireLayer(song, row.layerId)}
                  layerName={several ? requireLayer(song, row.layerId).name : take.layerId === row.layerId ? null : (song.layers.find(entry => entry.id === take.layerId)?.name ?? null)}
                  stretch={stretch}
                  view={view}
                  focused={item.index === focusIndex}
                  facts={facts.get(take.id)}
                  analysis={voices.get(take.assetId)}
                  notes={notes}
                  onPick={onPick}
                />
              </Box>
            )
          })}
          <Box position="absolute" inset={`0 14px 0 ${LABEL_WIDTH}px`} pointerEvents="none">
            {layers.map(entry => (
              <Thread key={entry.layer.id} layer={entry.layer} yOf={entry.yOf} view={view} height={Math.max(1, rows.length * rowHeight)} />
            ))}
            <FaintThread proposals={proposals} lines={placedLines(song)} yOf={yOf(layer.id)} view={view} height={Math.max(1, rows.length * rowHeight)} />
            <Box pointerEvents="auto">
              {layers.map(entry => (
                <SeamHandles key={entry.layer.id} layer={entry.layer} yOf={entry.yOf} view={view} />
              ))}
            </Box>
          </Box>
        </Box>
      </Box>
    </Box>
  )
}

/** Bar numbers, the words under the phrases they belong to, and the strip on which one cuts. */
function Head({ bench: { song, layer, stretch, focused, view, voiceOf } }: { bench: Bench }) {
  const scope = stretch.scope
  const sung = useMemo(() => sungIn(song, layer, voiceOf), [song, layer, voiceOf])
  const words = placedLines(song)
    .filter(line => overlapFrames(line, view) > 0)
    .flatMap(line => placeWords(line, sung(line)).map(word => ({ ...word, line })))
  const fraction = (frame: number) => (frame - view.startFrame) / (view.endFrame - view.startFrame)
  const places = useMemo(() => quietPlacesIn(song, layer.id, focused?.takeId ?? null, view), [song, layer.id, focused?.takeId, view])
  const framesOfClick = (event: MouseEvent<HTMLElement>) => {
    const box = event.currentTarget.getBoundingClientRect()
    return view.startFrame + ((event.clientX - box.left) / box.width) * (view.endFrame - view.startFrame)
  }
  return (
    <Box flex={`0 0 ${HEAD_HEIGHT}px`} position="relative">
      <Box position="absolute" top={0} bottom={0} left={`${LABEL_WIDTH}px`} right="14px" overflow="hidden" onDoubleClick={event => seek(Math.round(framesOfClick(event)))}>
        {legible(words, view).map(word => {
          const at = fraction(word.startFrame)
          return (
            <Word key={word.startFrame} style={{ left: `${at * 100}%` }} aria-pressed={scope === 'word' && stretch.startFrame === word.startFrame} aria-label={`Choose the word ${word.word}`} tabIndex={-1} onClick={() => goTo(song, { scope: 'word', title: word.word, startFrame: word.startFrame, endFrame: word.endFrame, lineIds: [word.line.line.id], sectionId: word.line.section.id })}>
              {word.word}
            </Word>
          )
        })}
      </Box>
      <CutStrip places={places} view={view} onCut={(event, snapped) => cutAt(layer.id, snapped ?? framesOfClick(event), { snap: !event.altKey && snapped === null })} />
      <Box position="absolute" left={4} bottom="2px" color="ink.soft" fontSize="11px" aria-hidden>
        cut here ✂
      </Box>
    </Box>
  )
}

/** Room that a word takes, roughly, of the bench's width. */
const wordShare = (word: string) => (word.length * 8.2 + 6) / 800

/** Words in view; those that would lie over the one before are left out until one zooms in. */
function legible<T extends { word: string; startFrame: number }>(words: readonly T[], view: FrameRange): T[] {
  const shown: T[] = []
  const at = (word: T) => (word.startFrame - view.startFrame) / (view.endFrame - view.startFrame)
  for (const word of words) {
    const last = shown.at(-1)
    if (at(word) >= 0 && at(word) < 1 && (!last || at(word) >= at(last) + wordShare(last.word))) shown.push(word)
  }
  return shown
}

const REASONS = { rest: 'a rest', 'before-breath': 'before a breath', consonant: 'in a consonant', soft: 'a soft spot' } as const

/** Quiet places as small marks; a click near one cuts there, anywhere else too. */
function CutStrip({ places, view, onCut }: { places: readonly { frame: number; reason: keyof typeof REASONS }[]; view: FrameRange; onCut: (event: MouseEvent<HTMLElement>, snapped: number | null) => void }) {
  const length = view.endFrame - view.startFrame
  return (
    <Box
      position="absolute"
      bottom="2px"
      height="16px"
      left={`${LABEL_WIDTH}px`}
      right="14px"
      cursor="crosshair"
      borderRadius="4px"
      _hover={{ bg: 'card' }}
      title="Click to cut what is picked. Near a mark it snaps; hold Alt to cut freely."
      onClick={event => {
        const box = event.currentTarget.getBoundingClientRect()
        const frame = view.startFrame + ((event.clientX - box.left) / box.width) * length
        const near = event.altKey ? undefined : [...places].sort((a, b) => Math.abs(a.frame - frame) - Math.abs(b.frame - frame))[0]
        onCut(event, near && Math.abs(near.frame - frame) < Math.min(SNAP_FRAMES, (12 / box.width) * length) ? near.frame : null)
      }}
    >
      {places.map(place => (
        <Box key={place.frame} position="absolute" top="3px" bottom="3px" width="4px" ml="-2px" borderRadius="2px" bg={place.reason === 'consonant' ? 'transparent' : place.reason === 'soft' ? 'transparent' : 'ink.soft'} borderWidth="1.5px" borderStyle={place.reason === 'soft' ? 'dotted' : 'solid'} borderColor="ink.soft" title={`Quiet: ${REASONS[place.reason]}`} style={{ left: `${((place.frame - view.startFrame) / length) * 100}%` }} />
      ))}
    </Box>
  )
}

/** Ctrl and the wheel zooms round the pointer, the wheel sideways (or with Shift) scrolls. One redraw a frame. */
function useWheel(scroller: React.RefObject<HTMLDivElement | null>, view: FrameRange): void {
  const current = useRef(view)
  useEffect(() => {
    current.current = view
  }, [view])
  useEffect(() => {
    const element = scroller.current?.parentElement
    if (!element) return
    let asked = 0
    const set = (zoom: FrameRange) => {
      current.current = zoom
      cancelAnimationFrame(asked)
      asked = requestAnimationFrame(() => setBench({ zoom }))
    }
    const onWheel = (event: WheelEvent) => {
      const { startFrame, endFrame } = current.current
      const length = endFrame - startFrame
      const sideways = event.shiftKey ? event.deltaY : event.deltaX
      if (event.ctrlKey) {
        event.preventDefault()
        const box = element.getBoundingClientRect()
        const part = Math.max(0, Math.min(1, (event.clientX - box.left - LABEL_WIDTH) / (box.width - LABEL_WIDTH - 14)))
        const next = Math.max(24_000, Math.min(48_000 * 600, length * Math.exp(event.deltaY / 400)))
        const start = startFrame + part * (length - next)
        set({ startFrame: Math.round(start), endFrame: Math.round(start + next) })
      } else if (Math.abs(sideways) > Math.abs(event.shiftKey ? 0 : event.deltaY)) {
        event.preventDefault()
        const by = Math.round((sideways / 800) * length)
        set({ startFrame: startFrame + by, endFrame: endFrame + by })
      }
    }
    element.addEventListener('wheel', onWheel, { passive: false })
    return () => {
      cancelAnimationFrame(asked)
      element.removeEventListener('wheel', onWheel)
    }
  }, [scroller])
}
