/** Decoders that are not ours, where the machine has them: what they say of a file is a truth from outside. */
import { execFileSync, spawnSync } from 'node:child_process'
import type { Planar } from '../audio/frames'

const has = (name: string, ...asked: string[]) => spawnSync(name, asked).status === 0
/** The setup of the tests installs them; without a network they may be missing. */
export const hasDecoders = has('ffmpeg', '-version') && has('flac', '--version') && spawnSync('midicsv', [], { input: '' }).error === undefined

/** Two channels at the file's own rate, by ffmpeg. */
export function decodedByFfmpeg(path: string): Planar {
  const bytes = execFileSync('ffmpeg', ['-v', 'error', '-i', path, '-f', 'f32le', '-ac', '2', '-'], { maxBuffer: 1 << 29 })
  const samples = new Float32Array(bytes.buffer.slice(bytes.byteOffset, bytes.byteOffset + bytes.length))
  return [0, 1].map(side => Float32Array.from({ length: samples.length / 2 }, (_, i) => samples[2 * i + side]))
}

/** Loudness, its range and true peak, by ffmpeg's own meter. */
export function measuredByFfmpeg(path: string): { lufs: number; rangeLu: number; truePeakDbtp: number } {
  const { stderr } = spawnSync('ffmpeg', ['-hide_banner', '-nostats', '-i', path, '-af', 'ebur128=peak=true', '-f', 'null', '-'])
  const summary = stderr.toString().split('Summary:')[1]
  const number = (name: RegExp) => Number(name.exec(summary)![1])
  return { lufs: number(/I:\s+(-?[\d.]+) LUFS/), rangeLu: number(/LRA:\s+(-?[\d.]+) LU/), truePeakDbtp: number(/Peak:\s+(-?[\d.]+) dBFS/) }
}

export interface Probed {
  format: { format_name: string; tags: Record<string, string> }
  streams: { codec_name: string; sample_rate: string; duration_ts?: number; tags?: Record<string, string> }[]
}

export function probedByFfmpeg(path: string): Probed {
  const asked = 'format=format_name:format_tags:stream=codec_name,sample_rate,duration_ts:stream_tags'
  return JSON.parse(execFileSync('ffprobe', ['-v', 'error', '-show_entries', asked, '-of', 'json', path]).toString()) as Probed
}

/** Where in the file each packet lies, and when it is played. */
export function packetsByFfprobe(path: string): { seconds: number; at: number }[] {
  const json = execFileSync('ffprobe', ['-v', 'error', '-show_entries', 'packet=pts_time,pos', '-of', 'json', path], { maxBuffer: 1 << 26 }).toString()
  const { packets } = JSON.parse(json) as { packets: { pts_time: string; pos: string }[] }
  return packets.map(({ pts_time, pos }) => ({ seconds: Number(pts_time), at: Number(pos) }))
}

/** A MIDI file as rows: track, tick, kind, and what belongs to it. */
export function midiByMidicsv(bytes: Uint8Array): string[][] {
  return execFileSync('midicsv', [], { input: bytes })
    .toString('utf8')
    .trim()
    .split('\n')
    .map(row => row.split(', '))
}
