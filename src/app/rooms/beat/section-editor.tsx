/** The selected section: rename, move its start, split, join. */
import { Box, Flex } from '@chakra-ui/react'
import { useState } from 'react'
import type { BeatAnalysis } from '../../../core/beat/analyse'
import { barAtFrame } from '../../../core/beat/grid'
import type { BarRange } from '../../../core/song/arrangement'
import {
  copySectionInto,
  freeBars,
  joinSectionWithNext,
  moveSectionStart,
  nameFreeBars,
  rangeOfSectionStart,
  renameSection,
  splitSection,
} from '../../../core/song/sections'
import type { Section, SectionId } from '../../../core/song/schema'
import { makeId } from '../../../storage/database'
import { count } from '../../shared/format'
import { NameField } from '../../shared/name-field'
import { NumberField } from '../../shared/number-field'
import { Card, Pill } from '../../shared/parts'
import { currentSong, edit, useSong } from '../../song/song-store'
import { select, useView } from '../../song/view-store'
import { BarActions } from './bar-actions'
import { HeardAgain } from './level-card'
import { TapLines } from './tap-lines'

interface SectionEditorProps {
  /** Null until the listening is over. */
  analysis: BeatAnalysis | null
  /** Null where they are the chosen section's own. */
  chosenBars: BarRange | null
  onChooseBars: (bars: BarRange) => void
}

export function SectionEditor({ analysis, chosenBars, onChooseBars }: SectionEditorProps) {
  const song = useSong(current => current)
  const cursorBar = barAtFrame(
    song.beat.grid,
    useView(state => state.cursorFrame),
  )
  const section = useChosenSection()
  const [linesAlong, setLinesAlong] = useState(false)
  const gap = freeBars(song)[0]
  if (!section) {
    return (
      <Flex color="ink.soft" mt={2} minH="38px" align="center" gap={2}>
        Choose a section to rename, move, split or join it, a chord to change it.
        {gap ? (
          <Pill onClick={() => nameBars(gap)} title="Makes them a section of their own, to be named">
            {gap.barCount === 1 ? `Bar ${gap.startBar} is` : `Bars ${gap.startBar} to ${gap.startBar + gap.barCount - 1} are`} in no section: name{' '}
            {gap.barCount === 1 ? 'it' : 'them'}
          </Pill>
        ) : null}
        <HeardAgain analysis={analysis} />
      </Flex>
    )
  }
  const { id, startBar, barCount } = section
  const isLast = song.sections.at(-1)?.id === id
  const inside = cursorBar > startBar && cursorBar < startBar + barCount
  const splitBar = inside ? cursorBar : startBar + Math.ceil(barCount / 2)
  const moveRange = rangeOfSectionStart(song, id, linesAlong)
  // Words are copied from the last section before it that has some.
  const twin = section.lines.length === 0 ? song.sections.filter(entry => entry.startBar < startBar && entry.lines.length > 0).at(-1) : undefined
  return (
    <Card mt={3} py={2} px={4}>
      <Flex align="center" gap={3} wrap="wrap">
        <NameField
          key={id}
          label="Section name"
          name={section.name}
          width="170px"
          fontFamily="heading"
          bg="ground"
          borderColor="seamline"
          onKeep={name => edit(`rename ${section.name}`, current => renameSection(current, { sectionId: id, name }))}
        />
        <Box>
          begins at bar{' '}
          <NumberField
            label="First bar of the section"
            value={startBar}
            min={moveRange.min}
            max={moveRange.max}
            digits={0}
            width="52px"
            onKeep={bar => edit(`move ${section.name}`, current => moveSectionStart(current, { sectionId: id, startBar: Math.round(bar), linesAlong }))}
          />
          <Box as="span" color="ink.soft">
            {' '}
            {count(barCount, 'bar')} long
          </Box>
          {section.lines.length > 0 ? (
            <Pill
              ml={2}
              chosen={linesAlong}
              onClick={() => setLinesAlong(!linesAlong)}
              title="When its first bar is moved; otherwise they stay where they are sung"
            >
              Its lines move along
            </Pill>
          ) : null}
        </Box>
        <Flex gap={2} wrap="wrap">
          <Pill
            disabled={barCount < 2}
            onClick={() =>
              edit(`split ${section.name}`, current => splitSection(current, { sectionId: id, bar: splitBar, newSectionId: makeId() as SectionId }))
            }
          >
            Split at bar {splitBar}
          </Pill>
          <Pill disabled={isLast} onClick={() => edit(`join ${section.name} with the next`, current => joinSectionWithNext(current, { sectionId: id }))}>
            Join with the next
          </Pill>
          <TapLines section={section} />
          {twin ? (
            <Pill onClick={() => edit(`copy ${twin.name} into ${section.name}`, current => copySectionInto(current, { fromId: twin.id, toId: id, makeId }))}>
              Copy {twin.name} into it
            </Pill>
          ) : null}
          <Pill onClick={() => select(song, { kind: 'song' })}>Done</Pill>
        </Flex>
      </Flex>
      <BarActions key={id} section={section} range={chosenBars ?? { startBar, barCount }} onRange={onChooseBars} />
    </Card>
  )
}

function nameBars({ startBar, barCount }: BarRange): void {
  edit(`name bars ${startBar} to ${startBar + barCount - 1}`, song => nameFreeBars(song, { bar: startBar, name: `Part at bar ${startBar}`, makeId }))
  const song = currentSong()
  const made = song.sections.find(section => section.startBar === startBar)
  if (made) select(song, { kind: 'section', sectionId: made.id })
}

export function useChosenSection(): Section | undefined {
  const sections = useSong(song => song.sections)
  const selection = useView(state => state.selection)
  return selection.kind === 'section' ? sections.find(entry => entry.id === selection.sectionId) : undefined
}
