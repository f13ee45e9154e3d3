/** What a first mix is laid by: how loud each voice is line by line, how low it sings, how it hisses, peaks and booms; and the beat where voices live. */
import { gainToDecibels, peakOf, powerToDecibels } from '../audio/decibels'
import { mixToMono, SAMPLE_RATE_HZ, type Mono, type Planar } from '../audio/frames'
import { quantile } from '../audio/statistics'
import { bandPower, longTermPowers } from '../audio/third-octaves'
import { filtered, highPass, lowPass } from '../effects/biquad'
import { integratedLufs } from '../loudness/loudness'
import { planMix } from '../mix/plan'
import { joinPlanes, renderOffline, type AssetStore } from '../mix/render-offline'
import type { PrintTable } from '../prints/jobs'
import { madePhrases } from '../prints/made-voices'
import { NO_ROOM } from '../song/beat-room'
import type { Layer, LayerId, LineId, Song, Take } from '../song/schema'
import { currentComp, lengthOf, overlapFrames, placedLines, requireTake, type FrameRange, type PlacedLine } from '../song/select'
import { EMPTY_RECIPE } from '../song/usual-mix'
import type { VoiceAnalysis } from '../voice/analyse-voice'

/** Of a layer as it is recorded and edited, at 0 dB, without recipes and rooms. */
export interface VoiceFacts {
  layerId: LayerId
  lines: { lineId: LineId; lufs: number }[]
  /** The lowest that it holds; null where nothing is held. */
  lowestHz: number | null
  /** Peaks above 5.5 kHz in its esses, and in all else; dBFS. Null without esses. */
  esses: { essDbfs: number; voiceDbfs: number } | null
  /** Its louder moments, as peaks of 10 ms; dBFS. */
  loudDbfs: number
  /** Where it stands out furthest over what lies beside it, below 600 Hz and between 600 Hz and 3 kHz; null where too little was sung to tell. */
  boom: Stands | null
  bark: Stands | null
}

export interface Stands {
  hz: number
  decibels: number
}

/** The beat between 250 Hz and 4 kHz, where voices live, under a line. */
export interface BeatLine {
  lineId: LineId
  lufs: number
}

export interface MixFacts {
  voices: VoiceFacts[]
  beat: BeatLine[]
  /** How much of the time between the first and the last line the lead sings, 0 to 1. */
  density: number
}

export interface MixSounds {
  store: AssetStore
  prints: PrintTable
  analysisOf: (take: Take) => Promise<VoiceAnalysis | null>
}

/** Less of a line is none. */
const LEAST_SHARE = 0.25
const ESS_HZ = 5_500
const VOICE_BAND_HZ = { low: 250, high: 4_000 }
/** What a singer holds lower than this is a rumble. */
const LOWEST_HZ = 55
/** Of a voice that holds no note. */
const UNKNOWN_LOWEST_HZ = 110

export async function readMixFacts(song: Song, sounds: MixSounds, onProgress: (fraction: number) => void = () => {}): Promise<MixFacts> {
  const lines = placedLines(song)
  const bare = bareSong(song)
  const voices: VoiceFacts[] = []
  const playing = song.layers.filter(layer => lines.some(line => plays(song, layer, line)))
  for (const [i, layer] of playing.entries()) {
    voices.push(
      await factsOfVoice(
        song,
        bare,
        layer,
        lines.filter(line => plays(song, layer, line)),
        sounds,
      ),
    )
    onProgress((i + 1) / (playing.length + 1))
  }
  const beat = await readBeatLines(song, playing, sounds)
  onProgress(1)
  return { voices, beat, density: densityOf(song) }
}

/** Lines that any of the layers plays. */
export async function readBeatLines(song: Song, layers: readonly Layer[], sounds: Pick<MixSounds, 'store' | 'prints'>): Promise<BeatLine[]> {
  const bare = bareSong(song)
  const sung = placedLines(song).filter(line => layers.some(layer => plays(song, layer, line)))
  const beat: BeatLine[] = []
  for (const line of sung) beat.push({ lineId: line.line.id, lufs: voiceBandLufs(await rendered(bare, { beat: true, layerIds: [] }, line, sounds)) })
  return beat
}

/** How loud the beat is where voices live. @param planes At 48 kHz. */
export function voiceBandLufs(planes: Planar): number {
  return integratedLufs(planes.map((plane): Mono => filtered(plane, highPass(VOICE_BAND_HZ.low), lowPass(VOICE_BAND_HZ.high))))
}

function plays(song: Song, layer: Layer, line: PlacedLine): boolean {
  const picked = currentComp(layer).picks.reduce((sum, pick) => sum + overlapFrames(pick, line), 0)
  const made = madePhrases(song, layer).reduce((sum, phrase) => sum + overlapFrames(phrase, line), 0)
  return picked + made >= LEAST_SHARE * lengthOf(line)
}

/** Every layer as it is recorded and edited; the beat at its level. */
function bareSong(song: Song): Song {
  return {
    ...song,
    vocalBus: { gainDecibels: 0, recipe: EMPTY_RECIPE },
    buses: song.buses.map(bus => ({ ...bus, gainDecibels: 0, recipe: EMPTY_RECIPE })),
    layers: song.layers.map(layer => ({
      ...layer,
      recipe: EMPTY_RECIPE,
      colours: [],
      sends: [],
      throws: [],
      ride: [],
      panRide: [],
      gainDecibels: 0,
      pan: 0,
      distance: 0,
    })),
    beat: { ...song.beat, room: NO_ROOM },
    output: { recipe: EMPTY_RECIPE, ceilingDbfs: 0 },
  }
}

async function rendered(
  song: Song,
  { beat, layerIds }: { beat: boolean; layerIds: LayerId[] },
  range: FrameRange,
  { store, prints }: Pick<MixSounds, 'store' | 'prints'>,
): Promise<Planar> {
  const pieces: Planar[] = []
  await renderOffline({ plan: planMix(song, { kind: 'only', beat, layerIds }, prints), store, range: within(range), sink: planes => void pieces.push(planes) })
  return joinPlanes(pieces)
}

function within({ startFrame, endFrame }: FrameRange): FrameRange {
  return { startFrame: Math.max(0, Math.round(startFrame)), endFrame: Math.round(endFrame) }
}

async function factsOfVoice(song: Song, bare: Song, layer: Layer, lines: readonly PlacedLine[], sounds: MixSounds): Promise<VoiceFacts> {
  const planes: Planar[] = []
  for (const line of lines) planes.push(await rendered(bare, { beat: false, layerIds: [layer.id] }, line, sounds))
  // A voice in the middle is at -3 dB on both sides: together as loud as itself.
  const monos = planes.map(both => mixToMono(both).map(value => value * Math.SQRT2) as Mono)
  const [whole] = joinPlanes(monos.map(mono => [mono]))
  const bands = whole.length >= LEAST_SECONDS * SAMPLE_RATE_HZ ? longTermPowers(whole) : null
  const lowestHz = await lowestOf(song, layer, sounds)
  return {
    layerId: layer.id,
    lines: lines.map((line, i) => ({ lineId: line.line.id, lufs: integratedLufs(planes[i]) })),
    lowestHz,
    esses: await essesOf(song, layer, lines, monos, sounds),
    loudDbfs: loudOf(whole),
    boom: bands && standsOut(bands, 110, 600, lowestHz ?? UNKNOWN_LOWEST_HZ),
    bark: bands && standsOut(bands, 600, 3_000, lowestHz ?? UNKNOWN_LOWEST_HZ),
  }
}

async function lowestOf(song: Song, layer: Layer, { analysisOf }: MixSounds): Promise<number | null> {
  const pitches: number[] = []
  for (const pick of currentComp(layer).picks) {
    const take = requireTake(song, pick.takeId)
    const analysis = await analysisOf(take)
    if (!analysis) continue
    const hop = analysis.hopSeconds * SAMPLE_RATE_HZ
    const origin = take.originFrame + pick.nudgeFrames
    for (let i = Math.max(0, Math.round((pick.startFrame - origin) / hop)); i < Math.min(analysis.f0Hz.length, (pick.endFrame - origin) / hop); i++)
      if (analysis.f0Hz[i] > LOWEST_HZ) pitches.push(analysis.f0Hz[i])
  }
  return pitches.length > 0 ? quantile(Float32Array.from(pitches), 0.03) : null
}

const PEAK_FRAMES = 0.01 * SAMPLE_RATE_HZ

function peaksOf(sound: Mono): Float32Array {
  return Float32Array.from({ length: Math.floor(sound.length / PEAK_FRAMES) }, (_, i) => peakOf(sound.subarray(i * PEAK_FRAMES, (i + 1) * PEAK_FRAMES)))
}

const SILENT_PEAK = 1e-3

/** Of the moments in which it sounds, what nine tenths stay below. */
function loudOf(sound: Mono): number {
  const sounding = peaksOf(sound).filter(peak => peak > SILENT_PEAK)
  return sounding.length > 0 ? gainToDecibels(quantile(sounding, 0.9)) : -Infinity
}

async function essesOf(
  song: Song,
  layer: Layer,
  lines: readonly PlacedLine[],
  monos: readonly Mono[],
  { analysisOf }: MixSounds,
): Promise<VoiceFacts['esses']> {
  const found: number[] = []
  const rest: number[] = []
  for (const [i, line] of lines.entries()) {
    const esses: FrameRange[] = []
    for (const pick of currentComp(layer).picks.filter(entry => overlapFrames(entry, line) > 0)) {
      const take = requireTake(song, pick.takeId)
      const origin = take.originFrame + pick.nudgeFrames
      for (const ess of (await analysisOf(take))?.esses ?? [])
        esses.push({
          startFrame: origin + ess.startSeconds * SAMPLE_RATE_HZ - line.startFrame,
          endFrame: origin + ess.endSeconds * SAMPLE_RATE_HZ - line.startFrame,
        })
    }
    const peaks = peaksOf(filtered(monos[i], highPass(ESS_HZ)))
    peaks.forEach((peak, k) => {
      const at = { startFrame: k * PEAK_FRAMES, endFrame: (k + 1) * PEAK_FRAMES }
      if (esses.some(ess => overlapFrames(ess, at) > 0)) found.push(peak)
      else if (peak > 1e-5) rest.push(peak)
    })
  }
  if (found.length === 0 || rest.length === 0) return null
  return { essDbfs: gainToDecibels(quantile(Float32Array.from(found), 0.75)), voiceDbfs: gainToDecibels(quantile(Float32Array.from(rest), 0.95)) }
}

/** Bands of a third of an octave. */
const BANDS_AN_OCTAVE = 3
/** Up to here a voice's average falls about as a straight line of decibels over octaves; under its lowest note there is nothing to compare with. */
const AVERAGE_TO_HZ = 5_000
/** In less than this a few notes are all that stands out. */
const LEAST_SECONDS = 15
/** Softer than this, a band says nothing. */
const LEAST_BAND_DECIBELS = -90

/**
 * The band between two frequencies that stands furthest above what the bands within an octave of it would have there; null in silence.
 * @param lowestHz Of the voice's notes: under it there is nothing to compare with.
 */
function standsOut(powers: Float64Array, lowHz: number, highHz: number, lowestHz: number): Stands | null {
  const count = Math.floor(BANDS_AN_OCTAVE * Math.log2(AVERAGE_TO_HZ / lowestHz)) + 1
  const octaves = Array.from({ length: count }, (_, i) => i / BANDS_AN_OCTAVE)
  const levels = octaves.map(octave => Math.max(LEAST_BAND_DECIBELS, powerToDecibels(bandPower(powers, lowestHz * 2 ** octave))))
  if (Math.max(...levels) === LEAST_BAND_DECIBELS) return null
  const standing = octaves.map((octave, i): Stands => {
    const beside = octaves.map((_, k) => k).filter(k => k !== i && Math.abs(k - i) <= BANDS_AN_OCTAVE)
    const { level, slope } = lineThrough(
      beside.map(k => octaves[k]),
      beside.map(k => levels[k]),
    )
    return { hz: Math.round(lowestHz * 2 ** octave), decibels: levels[i] - level - slope * octave }
  })
  return standing
    .filter(({ hz }) => hz >= lowHz && hz <= highHz)
    .reduce<Stands | null>((most, band) => (most && most.decibels >= band.decibels ? most : band), null)
}

/** Least squares. */
function lineThrough(x: readonly number[], y: readonly number[]): { level: number; slope: number } {
  const mean = (values: readonly number[]) => values.reduce((sum, value) => sum + value, 0) / values.length
  const [meanX, meanY] = [mean(x), mean(y)]
  const spread = x.reduce((sum, value) => sum + (value - meanX) ** 2, 0)
  const slope = spread > 0 ? x.reduce((sum, value, i) => sum + (value - meanX) * (y[i] - meanY), 0) / spread : 0
  return { level: meanY - slope * meanX, slope }
}

/** From phrases that were heard; from the lines where none were. */
function densityOf(song: Song): number {
  const lines = placedLines(song)
  const lead = song.layers.find(layer => layer.role === 'lead')
  if (!lead || lines.length === 0) return 0
  const whole = lines[lines.length - 1].endFrame - lines[0].startFrame
  const sung = currentComp(lead).picks.reduce((sum, pick) => {
    const take = requireTake(song, pick.takeId)
    const origin = take.originFrame + pick.nudgeFrames
    const phrases = take.heard?.phrases.map(([from, to]) => ({ startFrame: origin + from, endFrame: origin + to })) ?? [pick]
    return sum + phrases.reduce((all, phrase) => all + overlapFrames(phrase, pick), 0)
  }, 0)
  return Math.min(1, sung / Math.max(1, whole))
}
