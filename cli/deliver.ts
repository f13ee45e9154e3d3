/** `plush deliver`: any parts of a song file as sound files in a folder, with a report as JSON. */
import { mkdir, rename, rm, writeFile } from 'node:fs/promises'
import { join } from 'node:path'
import { z } from 'zod'
import { parseBars, rangeOfBars } from '../src/core/deliver/bars'
import { renderDelivery } from '../src/core/deliver/delivery'
import { DELIVERY_KINDS, endingOf, MP3_VARYING_KBPS, usualFormat, type DeliveryFormat } from '../src/core/deliver/encoders'
import { partsNamed } from '../src/core/deliver/named-parts'
import { fileNameOf, tagsOf, type Naming } from '../src/core/deliver/naming'
import { nameOfPart, planPart, songOfPart, type Part } from '../src/core/deliver/parts'
import { DeliveryFormatSchema, TARGETS, type Target } from '../src/core/deliver/targets'
import { warningsOf } from '../src/core/deliver/warnings'
import { uniqueFileName, USUAL_NAME_PATTERN } from '../src/core/files/names'
import type { Song } from '../src/core/song/schema'
import { fail } from './failure'
import { registerNodeDecoders } from './node-decoders'
import { registerNodeEncoders } from './node-encoders'
import { loadSongFile, readyToSound } from './song-file'

export interface DeliverWish {
  out: string
  part: string
  format?: string
  rate?: number
  bits?: number
  bitrate?: number
  variable?: true
  target?: string
  range?: string
  pattern?: string
  tags?: string
  firstSound?: true
  fadeIn: number
  fadeOut: number
}

export async function deliverSongFile(file: string, wish: DeliverWish): Promise<void> {
  const target = wish.target === undefined ? null : targetOf(wish.target)
  const format = formatOf(wish, target)
  const bars = wish.range === undefined ? null : (parseBars(wish.range) ?? fail(`"${wish.range}" are no bars: one like 5-12 is needed`))
  const own = tagsGiven(wish.tags)
  registerNodeDecoders()
  registerNodeEncoders()
  const opened = await loadSongFile(file)
  const parts = wish.part.split(',').flatMap(name => partsOf(opened.song, name))
  const naming: Naming = {
    pattern: wish.pattern ?? target?.pattern ?? USUAL_NAME_PATTERN,
    artist: own.artist ?? '',
    date: new Date().toISOString().slice(0, 10),
    version: 1,
  }
  await mkdir(wish.out, { recursive: true }).catch((error: Error) => fail(`${wish.out} cannot be made: ${error.message}`))
  const names: string[] = []
  const reports: object[] = []
  const whole = await readyToSound(opened)
  for (const part of parts) {
    const { song, prints } = part.kind === 'guide' ? await readyToSound(opened, songOfPart(opened.song, part)) : whole
    const name = nameOfPart(opened.song, part)
    const result = await renderDelivery({
      plan: planPart(song, part, prints),
      store: opened.store,
      format,
      aim: target?.aim ?? null,
      tags: { ...tagsOf(opened.song, own), ...(own.title ? { title: own.title } : {}) },
      ...(bars ? { range: rangeOfBars(opened.song, bars) } : {}),
      shape: { fromFirstSound: wish.firstSound === true, fadeInSeconds: wish.fadeIn, fadeOutSeconds: wish.fadeOut },
    })
    if (result.kind !== 'delivered') {
      reports.push({ part: name, error: 'nothing in it sounds: no file was made' })
      continue
    }
    const fileName = uniqueFileName(fileNameOf(opened.song, name, endingOf(format), naming), names)
    names.push(fileName)
    await writeWhole(join(wish.out, fileName), result.parts)
    reports.push({ part: name, file: join(wish.out, fileName), ...result.report, warnings: warningsOf(result.report) })
  }
  console.log(JSON.stringify(reports, null, 1))
  if (names.length === 0) fail('nothing of it sounds in this song')
}

/** Beside its place first: what is there is never half a file. */
async function writeWhole(path: string, parts: readonly Uint8Array[]): Promise<void> {
  const beside = `${path}.part`
  try {
    await writeFile(beside, Buffer.concat(parts))
    await rename(beside, path)
  } catch (error) {
    await rm(beside, { force: true })
    fail(`${path} cannot be written: ${(error as Error).message}`)
  }
}

function targetOf(name: string): Target {
  const asked = name.trim().toLowerCase()
  return (
    TARGETS.find(target => target.id === asked || target.name === asked) ??
    fail(`there is no target "${name}": one of ${TARGETS.map(({ id }) => id).join(', ')}`)
  )
}

/** The target's, changed by what is asked for. */
function formatOf({ format: asked, rate, bits, bitrate, variable }: DeliverWish, target: Target | null): DeliveryFormat {
  const kind = asked === undefined ? (target?.format.kind ?? 'wav') : asked === 'm4a' ? 'aac' : asked
  const known = DELIVERY_KINDS.find(entry => entry === kind) ?? fail(`there is no format "${kind}": one of ${DELIVERY_KINDS.join(', ')}`)
  const usual = target?.format.kind === known ? target.format : usualFormat(known, rate ?? target?.format.sampleRateHz)
  const wanted = {
    ...usual,
    ...(rate === undefined ? {} : { sampleRateHz: rate }),
    ...(bits === undefined ? {} : { bits }),
    ...(bitrate === undefined ? {} : { kbps: bitrate }),
    ...(variable ? { kbps: bitrate ?? MP3_VARYING_KBPS.at(-1), varies: true } : {}),
  }
  const parsed = DeliveryFormatSchema.safeParse(wanted)
  if (parsed.success) return parsed.data
  const { path, message } = parsed.error.issues[0]!
  return fail(`${known} cannot be written like that: ${path.join('.') || 'a setting'}: ${message}`)
}

function partsOf(song: Song, name: string): Part[] {
  const named = partsNamed(song, name)
  if (!named.ok) fail(named.why)
  if (named.parts.length === 0) fail(`"${name}" is nothing in this song`)
  return named.parts
}

const words = z.string().max(500)
const TagsSchema = z.strictObject({
  title: words.optional(),
  artist: words.optional(),
  album: words.optional(),
  year: z.number().int().min(1_000).max(9_999).optional(),
})
type OwnTags = { [K in keyof z.infer<typeof TagsSchema>]?: Exclude<z.infer<typeof TagsSchema>[K], undefined> }

function tagsGiven(text: string | undefined): OwnTags {
  if (text === undefined) return {}
  let json: unknown
  try {
    json = JSON.parse(text)
  } catch {
    fail('--tags is no JSON: one like {"artist": "…", "album": "…", "year": 2026} is needed')
  }
  const parsed = TagsSchema.safeParse(json)
  if (!parsed.success) fail(`--tags: ${parsed.error.issues[0]!.path.join('.')}: ${parsed.error.issues[0]!.message}`)
  return parsed.data as OwnTags
}
