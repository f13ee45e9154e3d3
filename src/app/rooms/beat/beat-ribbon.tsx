/** The whole beat, with bars and section blocks over it; zoomed and scrolled. */
import { Box, chakra, Flex } from '@chakra-ui/react'
import { ZoomIn, ZoomOut } from 'lucide-react'
import { useMemo, useRef, useState } from 'react'
import { frameOfBar } from '../../../core/beat/grid'
import type { BarRange } from '../../../core/song/arrangement'
import { sectionRange, type FrameRange } from '../../../core/song/select'
import { BeatCloth } from '../../shared/beat-cloth'
import { BarLines } from '../../shared/bar-lines'
import { Well } from '../../shared/parts'
import { Playhead } from '../../shared/playhead'
import { useWidth } from '../../shared/use-width'
import { seek } from '../../song/live'
import { useSong } from '../../song/song-store'
import { select, useView } from '../../song/view-store'
import { ChordLane } from './chord-lane'

const MAX_ZOOM = 16
const ZoomButton = chakra('button', {
  base: { p: 1, borderRadius: '8px', color: 'ink.soft', cursor: 'pointer', _hover: { color: 'ink' }, _disabled: { opacity: 0.4, cursor: 'default' } },
})

interface BeatRibbonProps {
  /** Shown as a band; null where a whole section is chosen, or none. */
  chosenBars: BarRange | null
  chosenChordBeat: number | null
  onChooseChord: (startBeat: number | null) => void
}

export function BeatRibbon({ chosenBars, chosenChordBeat, onChooseChord }: BeatRibbonProps) {
  const song = useSong(current => current)
  const [zoom, setZoom] = useState(1)
  const scroller = useRef<HTMLDivElement>(null)
  const width = useWidth(scroller)
  const view = useMemo<FrameRange>(() => ({ startFrame: 0, endFrame: song.beat.frames }), [song.beat.frames])
  const zoomTo = (next: number) => {
    const element = scroller.current
    const middle = element ? (element.scrollLeft + element.clientWidth / 2) / element.scrollWidth : 0
    setZoom(next)
    requestAnimationFrame(() => element && (element.scrollLeft = middle * element.scrollWidth - element.clientWidth / 2))
  }
  return (
    <Well p={3} pt={1}>
      <Flex justify="flex-end" align="center" gap={1}>
        <ZoomButton aria-label="Zoom out" disabled={zoom === 1} onClick={() => zoomTo(zoom / 2)}>
          <ZoomOut size={17} aria-hidden />
        </ZoomButton>
        <ZoomButton aria-label="Zoom in" disabled={zoom === MAX_ZOOM} onClick={() => zoomTo(zoom * 2)}>
          <ZoomIn size={17} aria-hidden />
        </ZoomButton>
      </Flex>
      <Box ref={scroller} overflowX="auto" tabIndex={0} role="region" aria-label="The beat; scrolls sideways when zoomed">
        <Box width={`${zoom * 100}%`} position="relative">
          <SectionTabs view={view} />
          <Box
            position="relative"
            height="138px"
            onClick={event => {
              const box = event.currentTarget.getBoundingClientRect()
              seek(Math.round(((event.clientX - box.left) / box.width) * song.beat.frames))
            }}
          >
            <BarLines grid={song.beat.grid} view={view} top="12px" />
            <BeatCloth view={view} label="The beat as a ribbon" position="absolute" inset="30px 0 0 0" />
            {chosenBars ? <ChosenBars bars={chosenBars} view={view} /> : null}
            <Playhead view={view} />
          </Box>
          <ChordLane view={view} chosenBeat={chosenChordBeat} onChoose={onChooseChord} width={zoom * width} />
        </Box>
      </Box>
    </Well>
  )
}

function ChosenBars({ bars: { startBar, barCount }, view }: { bars: BarRange; view: FrameRange }) {
  const grid = useSong(song => song.beat.grid)
  const length = view.endFrame - view.startFrame
  const from = frameOfBar(grid, startBar)
  // Over the ribbon: a loud beat hides what lies under it.
  return (
    <Box
      aria-hidden
      position="absolute"
      top="12px"
      bottom={0}
      pointerEvents="none"
      borderRadius="8px"
      borderWidth="1.5px"
      borderStyle="dashed"
      borderColor="brand"
      overflow="hidden"
      style={{ left: `${((from - view.startFrame) / length) * 100}%`, width: `${((frameOfBar(grid, startBar + barCount) - from) / length) * 100}%` }}
    >
      <Box position="absolute" inset={0} bg="brand" opacity={0.16} />
    </Box>
  )
}

function SectionTabs({ view }: { view: FrameRange }) {
  const song = useSong(current => current)
  const selection = useView(state => state.selection)
  const length = view.endFrame - view.startFrame
  return (
    <Box position="relative" height="30px" mb="2px">
      {song.sections.map(section => {
        const range = sectionRange(song, section)
        const from = Math.max(0, range.startFrame)
        // Beyond the beat there is nothing to lie over: the sheet says so.
        if (from >= view.endFrame || range.endFrame <= 0) return null
        const chosen = selection.kind === 'section' && selection.sectionId === section.id
        return (
          <chakra.button
            key={section.id}
            aria-pressed={chosen}
            onClick={() => select(song, { kind: 'section', sectionId: section.id })}
            position="absolute"
            top="2px"
            bottom="2px"
            style={{ left: `${(from / length) * 100}%`, width: `calc(${((Math.min(range.endFrame, view.endFrame) - from) / length) * 100}% - 2px)` }}
            bg={chosen ? 'brand' : 'card'}
            color={chosen ? 'brand.ink' : 'ink'}
            borderRadius="8px"
            px={2}
            fontSize="12px"
            fontWeight={600}
            textAlign="left"
            overflow="clip"
            whiteSpace="nowrap"
            cursor="pointer"
          >
            <Box as="span" position="sticky" left="8px">
              {section.name}
            </Box>
          </chakra.button>
        )
      })}
    </Box>
  )
}
