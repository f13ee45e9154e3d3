/** The takes under each other, only those in view drawn; the thread and its seams over them. */
import { Box } from '@chakra-ui/react'
import { useVirtualizer } from '@tanstack/react-virtual'
import { memo, useCallback, useEffect, useMemo, useRef, useState } from 'react'
import type { Proposal } from '../../../core/comp/propose-comp'
import type { LayerId, TakeId } from '../../../core/song/schema'
import { isPrintStale } from '../../../core/comp/print'
import { currentComp, overlapFrames, requireLayer, requireTake } from '../../../core/song/select'
import { useVoices } from '../../song/voices'
import { useBench, type Row } from './bench-store'
import { FaintThread } from './faint-thread'
import { textOfUse, useRowFacts } from './row-facts'
import { pickedIn, rowKey, usesOf } from './rows'
import { SeamHandles } from './seam-handles'
import { LABEL_WIDTH, TakeStrip } from './take-strip'
import { Thread } from './thread'
import type { Bench } from './use-bench'

const ROW_HEIGHT = 74
const NOTES_ROW_HEIGHT = 108
const WINDOW_ROWS = 4
const REST_MILLISECONDS = 120

export const BenchRows = memo(function BenchRows({ bench, onPick, proposals }: { bench: Bench; onPick: (row: Row) => void; proposals: readonly Proposal[] }) {
  const { song, stretch, rows, focused, view } = bench
  const notes = useBench(state => state.notes)
  const several = useBench(state => state.sideBySide)
  const scroller = useRef<HTMLDivElement>(null)
  const rowHeight = notes ? NOTES_ROW_HEIGHT : ROW_HEIGHT
  // eslint-disable-next-line react-hooks/incompatible-library -- it warns of a compiler that is not used here
  const virtual = useVirtualizer({ count: rows.length, getScrollElement: () => scroller.current, estimateSize: () => rowHeight, overscan: 1, useFlushSync: false, getItemKey: index => rowKey(rows[index]!) })
  useEffect(() => virtual.measure(), [virtual, rowHeight])
  const shown = virtual.getVirtualItems()
  // What is near the view is listened to; the rest waits until it is scrolled to.
  const first = shown[0]?.index ?? 0
  const last = shown.at(-1)?.index ?? -1
  const inRows = useMemo(() => [...new Set(rows.slice(first, last + 1).map(row => row.takeId))].map(id => requireTake(song, id)), [rows, first, last, song])
  // Comparing them takes a part of a frame: it waits until the rows rest.
  const listened = useRested(inRows, REST_MILLISECONDS)
  const voices = useVoices(listened)
  const facts = useRowFacts(song.beat, listened, stretch, voices)
  const focusIndex = focused ? rows.findIndex(row => rowKey(row) === rowKey(focused)) : -1
  useEffect(() => {
    if (focusIndex >= 0) virtual.scrollToIndex(focusIndex, { align: 'auto' })
  }, [virtual, focusIndex])
  return (
    <Box ref={scroller} flex="1 1 auto" minH={0} overflowY="auto" overflowX="hidden" tabIndex={-1} outline="none" data-bench-rows>
      <div style={{ position: 'relative', height: virtual.getTotalSize() }}>
        {shown.map(item => {
          const row = rows[item.index]!
          const take = requireTake(song, row.takeId)
          const layer = requireLayer(song, row.layerId)
          const uses = usesOf(song, row.layerId, take.id, stretch)
          const ground = pickedIn(song, row.layerId, stretch)?.take ?? null
          return (
            <div key={item.key} style={{ position: 'absolute', left: 0, right: 0, top: item.start, height: item.size }}>
              <TakeStrip
                layerId={layer.id}
                tint={layer.tint}
                take={take}
                bright={currentComp(layer).picks.filter(pick => pick.takeId === take.id && overlapFrames(pick, view) > 0)}
                used={uses.length > 0 ? textOfUse(song, uses[0]!) : null}
                ground={ground}
                stale={isPrintStale(song, take)}
                beat={song.beat}
                layerName={several ? layer.name : take.layerId === row.layerId ? null : (song.layers.find(entry => entry.id === take.layerId)?.name ?? null)}
                stretch={stretch}
                view={view}
                focused={item.index === focusIndex}
                facts={facts.get(take.id)}
                analysis={voices.get(take.assetId)}
                notes={notes}
                onPick={onPick}
              />
            </div>
          )
        })}
        <Threads bench={bench} proposals={proposals} rowHeight={rowHeight} first={first} last={last} />
      </div>
    </Box>
  )
})

/** The value as it was when it last stayed the same for a while. */
function useRested<T>(value: T, milliseconds: number): T {
  const [rested, setRested] = useState(value)
  useEffect(() => {
    const timer = setTimeout(() => setRested(value), milliseconds)
    return () => clearTimeout(timer)
  }, [value, milliseconds])
  return rested
}

/** Memoised: scrolling changes something only when other rows come into view. */
const Threads = memo(function Threads({ bench: { song, layer, rows, view }, proposals, rowHeight, first, last }: { bench: Bench; proposals: readonly Proposal[]; rowHeight: number; first: number; last: number }) {
  const yOf = useCallback(
    (layerId: LayerId) => (takeId: TakeId) => {
      const index = rows.findIndex(row => row.layerId === layerId && row.takeId === takeId)
      return index < 0 ? null : (index + 0.5) * rowHeight
    },
    [rows, rowHeight],
  )
  const ownY = useMemo(() => yOf(layer.id), [yOf, layer.id])
  const layers = useMemo(() => [...new Set(rows.map(row => row.layerId))].map(id => ({ layer: requireLayer(song, id), yOf: yOf(id) })), [rows, song, yOf])
  // In steps of a few rows, and as high whatever they are: a canvas of another size is made anew.
  const from = Math.floor(first / WINDOW_ROWS) * WINDOW_ROWS
  const count = Math.ceil((last - first + 1) / WINDOW_ROWS + 1) * WINDOW_ROWS
  const inView = useMemo(() => ({ top: from * rowHeight, height: count * rowHeight }), [from, count, rowHeight])
  return (
    <Box position="absolute" inset={`0 14px 0 ${LABEL_WIDTH}px`} pointerEvents="none">
      {layers.map(entry => (
        <Thread key={entry.layer.id} layer={entry.layer} yOf={entry.yOf} rows={inView} />
      ))}
      <FaintThread song={song} proposals={proposals} yOf={ownY} rows={inView} />
      {layers.map(entry => (
        <SeamHandles key={entry.layer.id} layer={entry.layer} yOf={entry.yOf} view={view} />
      ))}
    </Box>
  )
})
