/** The transport: play, record, loop, click, and the whole beat as a ribbon to move about on. */
import { Box, chakra, Flex } from '@chakra-ui/react'
import { Play, Square } from 'lucide-react'
import { useCallback, useMemo, useRef } from 'react'
import { useNavigate, useParams } from 'react-router'
import { barAtFrame, formatPosition, frameOfBar } from '../../core/beat/grid'
import { sectionRange, type FrameRange } from '../../core/song/select'
import { count, formatClock, formatKey, formatTempo } from '../shared/format'
import { Pill } from '../shared/parts'
import { BeatCloth } from '../shared/beat-cloth'
import { Playhead } from '../shared/playhead'
import { say, useFrameLoop } from '../shared/use-frame-loop'
import { usePrints } from '../song/prints'
import { playheadFrame, seek, togglePlaying, useLive } from '../song/live'
import { currentSong, useSong } from '../song/song-store'
import { rangeOf, useView } from '../song/view-store'
import { toggleRecording } from '../recording/recorder'

const RoundButton = chakra('button', {
  base: {
    boxSize: '44px',
    borderRadius: 'full',
    borderWidth: '1px',
    borderColor: 'seamline',
    bg: 'card',
    display: 'inline-flex',
    alignItems: 'center',
    justifyContent: 'center',
    cursor: 'pointer',
    flexShrink: 0,
    _disabled: { opacity: 0.5, cursor: 'default' },
  },
})

export function TransportStrip() {
  const { playing, recording, status } = useLive()
  const { looping, clicking, selection } = useView()
  const navigate = useNavigate()
  const { songId } = useParams()
  const loopWhat = selection.kind === 'lines' ? (selection.lineIds.length === 1 ? 'line' : 'lines') : selection.kind
  return (
    <Flex
      as="footer"
      aria-label="Transport"
      height="84px"
      flexShrink={0}
      align="center"
      gap={3}
      px={{ base: '10px', md: '18px' }}
      borderTopWidth="1px"
      borderColor="seamline"
    >
      <RoundButton onClick={togglePlaying} aria-label={playing ? 'Stop' : 'Play'} title="Space">
        {playing ? <Square size={18} fill="currentColor" aria-hidden /> : <Play size={20} fill="currentColor" aria-hidden />}
      </RoundButton>
      <RoundButton
        aria-label={recording ? 'Stop recording' : 'Record in the Booth'}
        title="R in the Booth"
        borderColor={recording ? 'record' : 'seamline'}
        onClick={() => {
          void navigate(`/song/${songId}/booth`)
          if (recording) toggleRecording()
        }}
      >
        <Box boxSize="17px" borderRadius={recording ? '3px' : 'full'} bg="record" />
      </RoundButton>
      <Pill chosen={looping} minW={{ base: '96px', md: '116px' }} onClick={() => useView.setState({ looping: !looping })} title="L">
        Loop {loopWhat}
      </Pill>
      <Pill chosen={clicking} display={{ base: 'none', md: 'inline-flex' }} onClick={() => useView.setState({ clicking: !clicking })} title="K">
        Click
      </Pill>
      <ListenedTo />
      <WholeBeat />
      <Making />
      <Position />
      {status === 'not-isolated' || status === 'no-audio' ? (
        <Box role="alert" color="warn" maxW="160px" fontSize="12px">
          {status === 'no-audio'
            ? 'The browser gives no sound output. Check the audio device and reload.'
            : 'This page is not isolated, so it cannot play. Open it from its own server.'}
        </Box>
      ) : null}
    </Flex>
  )
}

/** In view as long as it is on, so that nobody mixes in mono, or through a small loudspeaker, unawares. */
function ListenedTo() {
  const { inMono, isSmall } = useView()
  return (
    <>
      {inMono ? (
        <Pill chosen onClick={() => useView.setState({ inMono: false })} title="Both sides play their middle; the song is as it was">
          In mono
        </Pill>
      ) : null}
      {isSmall ? (
        <Pill chosen onClick={() => useView.setState({ isSmall: false })} title="One channel without lows; the song is as it was">
          Small speaker
        </Pill>
      ) : null}
    </>
  )
}

/** What is heard as it was until it is made. */
function Making() {
  const waiting = usePrints(state => state.waiting)
  if (waiting === 0) return null
  return (
    <Box role="status" color="ink.soft" fontSize="12px" flex="0 0 auto" minW="96px" whiteSpace="nowrap">
      Making {count(waiting, 'sound')} …
    </Box>
  )
}

function WholeBeat() {
  const song = useSong(current => current)
  const selection = useView(state => state.selection)
  const strip = useRef<HTMLDivElement>(null)
  const view = useMemo<FrameRange>(() => ({ startFrame: 0, endFrame: song.beat.frames }), [song.beat.frames])
  const range = rangeOf(song, selection)
  const { grid, frames } = song.beat
  const percent = (frame: number) => `${(Math.max(0, Math.min(frames, frame)) / frames) * 100}%`
  const cursor = useView(state => state.cursorFrame)
  const byBars = (bars: number) => seek(Math.max(0, Math.min(frames, frameOfBar(grid, barAtFrame(grid, playheadFrame()) + bars))))
  return (
    <Box display={{ base: 'none', md: 'block' }} flex="1 1 auto" minW={0} height="64px" position="relative">
      {song.sections.map(section => {
        const { startFrame, endFrame } = sectionRange(song, section)
        return (
          <Box
            key={section.id}
            aria-hidden
            position="absolute"
            top={0}
            bottom={0}
            style={{ left: percent(startFrame), width: `calc(${percent(endFrame)} - ${percent(startFrame)})` }}
            borderLeftWidth="1px"
            borderColor="seamline"
            pl="3px"
            fontSize="11px"
            color="ink.soft"
            whiteSpace="nowrap"
            overflow="hidden"
            textOverflow="ellipsis"
            pointerEvents="none"
          >
            {section.name}
          </Box>
        )
      })}
      <Box
        ref={strip}
        position="absolute"
        inset="16px 0 0 0"
        role="slider"
        tabIndex={0}
        aria-label="Position in the song"
        aria-valuemin={0}
        aria-valuemax={frames}
        aria-valuenow={Math.round(Math.max(0, Math.min(frames, cursor)))}
        aria-valuetext={`bar ${barAtFrame(grid, cursor)}`}
        cursor="pointer"
        onClick={event => {
          const box = event.currentTarget.getBoundingClientRect()
          seek(Math.round(((event.clientX - box.left) / box.width) * frames))
        }}
        onKeyDown={event => {
          if (event.key === 'ArrowRight') byBars(1)
          if (event.key === 'ArrowLeft') byBars(-1)
        }}
      >
        <BeatCloth view={view} label="The beat" height="100%" />
        <Box
          aria-hidden
          position="absolute"
          top={0}
          bottom={0}
          style={{ left: percent(range.startFrame), width: `${((Math.min(frames, range.endFrame) - Math.max(0, range.startFrame)) / frames) * 100}%` }}
          bg="brand"
          opacity={0.16}
          pointerEvents="none"
        />
        <Playhead view={view} />
      </Box>
    </Box>
  )
}

function Position() {
  const bars = useRef<HTMLDivElement>(null)
  const clock = useRef<HTMLSpanElement>(null)
  const draw = useCallback(() => {
    const frame = playheadFrame()
    const { grid } = currentSong().beat
    say(bars.current, formatPosition(grid, frame))
    say(clock.current, formatClock(frame))
  }, [])
  useFrameLoop(draw)
  const beat = useSong(song => song.beat)
  return (
    <Box textAlign="right" flex="0 0 128px" ml="auto">
      <Box ref={bars} fontSize="20px" fontWeight={700} lineHeight={1.2} aria-label="Bar, beat, sixteenth" role="timer" />
      <Box color="ink.soft" fontSize="12px" whiteSpace="nowrap">
        <span ref={clock} /> · {formatTempo(beat.grid.tempoBpm)} bpm
        <br />
        {formatKey(beat.key)}
      </Box>
    </Box>
  )
}
