/** Makes a print. Equal jobs on equal sound give equal bits. */
import { treat } from '../beat/treatments'
import { SAMPLE_RATE_HZ, type Mono, type Planar } from '../audio/frames'
import type { AssetId } from '../song/schema'
import type { FrameRange } from '../song/select'
import type { EditId } from '../song/edit-schema'
import { resynthesise } from '../tune/resynthesise'
import { shiftAt, shiftsOf } from '../tune/shifts'
import { timeMapOf } from '../tune/time-map'
import type { PitchTrack } from '../voice/pitch'
import { redraw, type ToneOf } from './apply-mends'
import type { PrintJob } from './jobs'
import { makeTone } from '../made/make-tone'
import { makeVoice } from '../made/make-voice'
import type { SungNote } from '../voice/notes'
import type { MadeJob } from './made-voices'
import type { MendedJob } from './mended'

/** Where the sound that a print is made from lies. */
export interface PrintSource {
  /** Frames of an asset; silence where it does not reach. */
  read(assetId: AssetId, startFrame: number, endFrame: number): Promise<Planar>
  /** Of the whole asset. */
  pitchOf(assetId: AssetId): Promise<PitchTrack>
}

/** A moved note begins and ends over so much of it: no singer leaps in no time. */
const GLIDE_FRAMES = 720
/** At its ends a print goes over into the take, should the voice not be itself again by then. */
const SPLICE_FRAMES = 480

/** @returns as many frames as the job's stretch. */
export async function makePrint(job: PrintJob, source: PrintSource): Promise<Planar> {
  const { assetId, startFrame, endFrame } = job
  if (job.kind === 'tone') return [makeTone(endFrame - startFrame, job.notes, job.tuningCents)]
  const sound = await source.read(assetId, startFrame, endFrame)
  if (job.kind === 'treated') return treat(sound, job.treatment)
  if (job.kind === 'made') return [made(sound[0], job, await source.pitchOf(assetId))]
  const tones = new Map<FrameRange, Mono>()
  for (const { tone } of job.redrawn) if (tone) tones.set(tone, (await source.read(assetId, tone.startFrame, tone.endFrame))[0])
  return [mend(sound[0], job, await source.pitchOf(assetId), tone => tones.get(tone)!)]
}

function made(sound: Mono, { startFrame, endFrame, notes, sung, throatSemitones, seed }: MadeJob, track: PitchTrack): Mono {
  const hopFrames = Math.round(track.hopSeconds * SAMPLE_RATE_HZ)
  const firstHop = Math.ceil(startFrame / hopFrames)
  // The job's first frame lies between two hops: the voice is taken from the hop before on.
  const lead = firstHop * hopFrames - startFrame
  const from = (firstHop * hopFrames) / SAMPLE_RATE_HZ
  const voice = makeVoice(sound.subarray(lead), {
    f0Hz: track.f0Hz.subarray(firstHop, firstHop + Math.ceil((sound.length - lead) / hopFrames)),
    sung: sung.map(note => earlier(note, from)),
    phrases: [{ startSeconds: 0, endSeconds: (endFrame - startFrame) / SAMPLE_RATE_HZ }],
    notes: notes.map(note => ({ startSeconds: note.startFrame / SAMPLE_RATE_HZ - from, endSeconds: note.endFrame / SAMPLE_RATE_HZ - from, midi: note.midi })),
    throatSemitones,
    // Every phrase wavers otherwise.
    seed: seed + startFrame,
  })
  const print = new Float32Array(sound.length)
  print.set(voice, lead)
  return print
}

function mend(sound: Planar[number], { startFrame, notes, times, redrawn, tuning }: MendedJob, track: PitchTrack, toneOf: ToneOf): Planar[number] {
  const voice = sound.slice()
  redraw(voice, redrawn, toneOf, startFrame)
  const hopFrames = Math.round(track.hopSeconds * SAMPLE_RATE_HZ)
  const firstHop = Math.ceil(startFrame / hopFrames)
  // The job's first frame lies between two hops: the voice is taken from the hop before on.
  const lead = firstHop * hopFrames - startFrame
  const body = voice.subarray(lead)
  const from = firstHop * hopFrames
  const hops = Math.ceil(body.length / hopFrames)
  const pitch = { f0Hz: track.f0Hz.subarray(firstHop, firstHop + hops), clarity: track.clarity.subarray(firstHop, firstHop + hops) }
  const shifts =
    tuning &&
    shiftsOf(
      pitch,
      tuning.notes.map(note => earlier(note, from / SAMPLE_RATE_HZ)),
      tuning.settings,
    )
  const isMovedAnywhere = notes.length > 0 || times.length > 0 || (tuning?.notes.length ?? 0) > 0
  const made = isMovedAnywhere
    ? resynthesise(body, {
        pitch: { f0Hz: pitch.f0Hz, hopFrames },
        centsAt: frame => centsAt(notes, frame + from) + (shifts ? shiftAt(shifts, frame / hopFrames) : 0),
        time: timeMapOf(times.map(time => ({ ...time, id: 'time' as EditId, frame: time.frame - from }))),
        throatSemitones: tuning?.settings.throatSemitones ?? 0,
      })
    : body
  // What is drawn anew lies inside; at its ends the print is the take.
  const print = sound.slice()
  for (let i = 0; i < made.length; i++) {
    const share = Math.min(1, (i + 1) / SPLICE_FRAMES, (made.length - i) / SPLICE_FRAMES)
    const take = sound[lead + i]
    // Where both are one, what is computed between them need not be.
    print[lead + i] = share === 1 || made[i] === take ? made[i] : take + share * (made[i] - take)
  }
  return print
}

function earlier<N extends SungNote>(note: N, seconds: number): N {
  return {
    ...note,
    startSeconds: note.startSeconds - seconds,
    endSeconds: note.endSeconds - seconds,
    heldFromSeconds: note.heldFromSeconds - seconds,
    heldToSeconds: note.heldToSeconds - seconds,
  }
}

function centsAt(notes: MendedJob['notes'], frame: number): number {
  const note = notes.find(entry => frame >= entry.startFrame && frame < entry.endFrame)
  if (!note) return 0
  const glide = Math.min(GLIDE_FRAMES, (note.endFrame - note.startFrame) / 4)
  return note.shiftCents * Math.min(1, (frame - note.startFrame) / glide, (note.endFrame - frame) / glide)
}
