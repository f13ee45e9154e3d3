/** One take on the bench: its name and facts, its ribbon, and the parts that are picked. */
import { SAMPLE_RATE_HZ } from '../../../core/audio/frames'
import { Box, chakra } from '@chakra-ui/react'
import { useQuery } from '@tanstack/react-query'
import { Archive, Star } from 'lucide-react'
import { memo, useMemo, type CSSProperties } from 'react'
import type { CandidateFacts } from '../../../core/comp/propose-comp'
import type { Beat, Layer, LayerId, Take } from '../../../core/song/schema'
import type { FrameRange } from '../../../core/song/select'
import type { VoiceAnalysis } from '../../../core/voice/analyse-voice'
import { formatDecibels } from '../../shared/format'
import { Ribbon } from '../../shared/ribbon'
import { TakeSwatch } from '../../shared/take-swatch'
import { usePeaks } from '../../song/sounds'
import { setBench, type Row } from './bench-store'
import { NotesOverlay } from './notes-overlay'
import { factsText } from './row-facts'
import { matchQuery } from './use-bench'

export const LABEL_WIDTH = 150

const StripButton = chakra('button', {
  base: {
    display: 'flex',
    width: '100%',
    height: '100%',
    alignItems: 'center',
    textAlign: 'left',
    cursor: 'pointer',
    position: 'relative',
    _focusVisible: { outlineOffset: '-3px' },
  },
})

// Plain styles: rows come and go by the dozen while one scrolls, and each styled element would cost a part of a frame.
const CUT: CSSProperties = { overflow: 'hidden', textOverflow: 'ellipsis', whiteSpace: 'nowrap' }
const LABEL: CSSProperties = { flex: `0 0 ${LABEL_WIDTH}px`, minWidth: 0, padding: '0 8px 0 16px' }
const NAME: CSSProperties = { display: 'flex', alignItems: 'center', gap: 6, minWidth: 0, fontWeight: 600 }
const FACTS: CSSProperties = {
  color: 'var(--chakra-colors-ink-soft)',
  fontSize: 12,
  lineHeight: 1.25,
  display: '-webkit-box',
  WebkitBoxOrient: 'vertical',
  WebkitLineClamp: 2,
  overflow: 'hidden',
}
const USED: CSSProperties = { ...FACTS, color: 'var(--chakra-colors-warn)' }
const LEVEL: CSSProperties = { color: 'var(--chakra-colors-ink-soft)', fontSize: 11 }
const SOUND: CSSProperties = { position: 'relative', flex: '1 1 auto', height: 'calc(100% - 10px)', marginRight: 14 }

export interface TakeStripProps {
  layerId: LayerId
  tint: Layer['tint']
  take: Take
  /** What of it is picked, in view. */
  bright: readonly FrameRange[]
  /** Where another layer plays it, in words. */
  used: string | null
  /** What its layer plays here. */
  ground: Take | null
  /** It is a bounce, and no longer what its comp plays. */
  stale: boolean
  beat: Beat
  /** Named where rows of several layers are on the bench. */
  layerName: string | null
  stretch: FrameRange
  view: FrameRange
  focused: boolean
  facts: CandidateFacts | undefined
  analysis: VoiceAnalysis | undefined
  notes: boolean
  onPick: (row: Row) => void
}

/** A pick changes one or two of them: the others are not drawn again. */
function sameStrip(a: TakeStripProps, b: TakeStripProps): boolean {
  const { bright: brightA, stretch: stretchA, ground: groundA, ...othersA } = a
  const { bright: brightB, stretch: stretchB, ground: groundB, ...othersB } = b
  const same = (x: FrameRange, y: FrameRange) => x.startFrame === y.startFrame && x.endFrame === y.endFrame
  return (
    (Object.keys(othersA) as (keyof typeof othersA)[]).every(key => othersA[key] === othersB[key]) &&
    groundA?.id === groundB?.id &&
    same(stretchA, stretchB) &&
    brightA.length === brightB.length &&
    brightA.every((range, i) => same(range, brightB[i]!))
  )
}

export const TakeStrip = memo(function TakeStrip({
  layerId,
  tint,
  take,
  bright: picks,
  used: usedBy,
  ground,
  stale,
  beat,
  layerName,
  stretch,
  view,
  focused,
  facts,
  analysis,
  notes,
  onPick,
}: TakeStripProps) {
  const peaks = usePeaks(take.assetId)
  const picked = ground?.id === take.id
  const row = { layerId, takeId: take.id }
  const bright = picks as FrameRange[]
  const sung = useMemo<FrameRange[]>(() => [{ startFrame: take.startFrame, endFrame: take.endFrame }], [take])
  const gaps = useMemo(
    () => analysis?.phrases.flatMap(phrase => [phrase.startSeconds, phrase.endSeconds].map(seconds => take.originFrame + seconds * SAMPLE_RATE_HZ)) ?? [],
    [analysis, take.originFrame],
  )
  const { data: matchDecibels } = useQuery({ ...matchQuery(ground, take, stretch), enabled: ground !== null && !picked })
  const used = usedBy === null ? null : `used in ${usedBy}`
  const said = facts ? factsText(facts) : analysis ? '' : 'listening …'
  const level = matchDecibels && Math.abs(matchDecibels) >= 0.1 ? formatDecibels(matchDecibels, -Infinity) : null
  const marks = [
    take.starred ? 'starred' : null,
    take.spare ? 'put aside' : null,
    take.bounceOf ? (stale ? 'bounce, no longer what the comp plays' : 'bounce') : null,
  ].filter(Boolean)
  const state = [used ?? (picked ? 'picked' : null), said || null, level ? `matched by ${level}` : null].filter(Boolean).join(', ')
  return (
    <StripButton
      aria-pressed={picked}
      aria-label={`${layerName ? `${layerName}, ` : ''}${take.name}${marks.length > 0 ? `, ${marks.join(', ')}` : ''}: ${state}${picked ? '' : '. Pick it'}`}
      data-focused={focused || undefined}
      data-row={take.id}
      bg={focused ? 'card' : 'transparent'}
      onClick={() => onPick(row)}
      onFocus={() => setBench({ focus: row })}
    >
      {focused ? (
        <Box
          aria-hidden
          position="absolute"
          inset="2px 6px"
          borderWidth="1px"
          borderStyle="dashed"
          borderColor="brand"
          borderRadius="10px"
          pointerEvents="none"
          opacity={0.7}
        />
      ) : null}
      <div style={LABEL}>
        <div style={NAME}>
          <TakeSwatch take={take} />
          <span style={CUT}>{take.name}</span>
          {take.starred ? <Star size={13} fill="currentColor" aria-hidden /> : null}
          {take.spare ? <Archive size={13} aria-hidden /> : null}
        </div>
        <div style={used ? USED : FACTS}>
          {layerName ? <b style={{ fontWeight: 600 }}>{layerName} · </b> : null}
          {used ?? said}
        </div>
        {level && !used ? <div style={LEVEL}>level {level}</div> : null}
      </div>
      <div style={SOUND}>
        <Ribbon
          peaks={peaks}
          originFrame={take.originFrame}
          view={view}
          bright={picked || bright.length > 0 ? bright : sung}
          gaps={gaps}
          look={picked || bright.length > 0 ? tint : 'spare'}
          label={`${take.name} as a ribbon`}
          opacity={notes ? 0.35 : 1}
        />
        {notes && analysis ? <NotesOverlay analysis={analysis} originFrame={take.originFrame} view={view} beat={beat} /> : null}
      </div>
    </StripButton>
  )
}, sameStrip)
