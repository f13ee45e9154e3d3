/** One page on a song, to be printed or sent along: what was sung, layers, settings, keys. */
import { formatMeter } from '../beat/grid'
import { keyName } from '../beat/key-names'
import { SAMPLE_RATE_HZ } from '../audio/frames'
import { recipeAt } from '../mix/recipes'
import type { Recipe } from '../song/mix-schema'
import type { Layer, Song } from '../song/schema'
import { currentComp, placedLines } from '../song/select'

/** A whole HTML file that needs no other. */
export function sessionSheet(song: Song, { artist = '', date }: { artist?: string; date: string }): string {
  const { beat, layers, sections, spaces, vocalBus, output } = song
  const key = beat.key ? `${keyName(beat.key)}${beat.colour ? ` (${beat.colour})` : ''}` : 'no key'
  const facts: [string, string][] = [
    ...(artist ? [['Artist', artist] as [string, string]] : []),
    ['Date', date],
    ['Tempo', `${Math.round(beat.grid.tempoBpm * 100) / 100} bpm${beat.grid.map ? ', drifting' : ''}, ${formatMeter(beat.grid)}`],
    ['Key', key],
    ['Length', clock(beat.frames)],
    ['Beat', `${beat.fileName}, ${decibels(beat.gainDecibels)}`],
    ['All voices', `${decibels(vocalBus.gainDecibels)}${wordsOf(vocalBus.recipe, ', ')}`],
    ['Spaces', spaces.map(space => `${space.name} (${space.kind}, ${decibels(space.gainDecibels)})`).join('; ') || 'none'],
    ['The whole mix', `${wordsOf(output.recipe, '') || 'as mixed'}, never above ${output.ceilingDbfs} dBFS`],
  ]
  const rows = layers.map(layer => [
    layer.name,
    layer.role,
    sungIn(song, layer),
    decibels(layer.gainDecibels),
    place(layer.pan),
    doneTo(song, layer),
    sentTo(song, layer),
  ])
  const lines = sections.map(
    section =>
      `<section><h3>${escaped(section.name)} <small>bars ${section.startBar} to ${section.startBar + section.barCount - 1}</small></h3>` +
      `<p>${section.lines
        .map(({ words }) => escaped(words))
        .filter(Boolean)
        .join('<br>')}</p></section>`,
  )
  return `<!doctype html>
<html lang="en"><head><meta charset="utf-8"><title>${escaped(song.title)}</title><style>${STYLE}</style></head><body>
<h1>${escaped(song.title)}</h1>
<dl>${facts.map(([name, value]) => `<dt>${name}</dt><dd>${escaped(value)}</dd>`).join('')}</dl>
${table(['Layer', 'Role', 'Sung', 'Level', 'Place', 'What is done to it', 'Sent into'], rows)}
<div class="words">${lines.join('')}</div>
</body></html>
`
}

const STYLE =
  'body{font:13px/1.4 Georgia,serif;color:#222;max-width:52em;margin:2em auto;padding:0 1em}h1{margin:0 0 .5em}h3{margin:.8em 0 .2em;font-size:14px}' +
  'small{font-weight:normal;color:#555}dl{display:grid;grid-template-columns:max-content 1fr;gap:.15em 1em;margin:0 0 1em}dt{color:#555}dd{margin:0}' +
  'table{border-collapse:collapse;width:100%;margin:0 0 1em}th,td{text-align:left;vertical-align:top;padding:.25em .5em .25em 0;border-bottom:1px solid #ccc}' +
  '.words{columns:2}section{break-inside:avoid}p{margin:0}@media print{body{margin:0}}'

function table(heads: readonly string[], rows: readonly (readonly string[])[]): string {
  const cells = (name: 'th' | 'td', row: readonly string[]) => `<tr>${row.map(cell => `<${name}>${escaped(cell)}</${name}>`).join('')}</tr>`
  return `<table><thead>${cells('th', heads)}</thead><tbody>${rows.map(row => cells('td', row)).join('')}</tbody></table>`
}

function sungIn(song: Song, layer: Layer): string {
  const takes = song.takes.filter(take => take.layerId === layer.id && !take.binned).length
  const { picks } = currentComp(layer)
  const lines = placedLines(song).filter(line => picks.some(pick => pick.startFrame < line.endFrame && pick.endFrame > line.startFrame)).length
  const made = layer.made ? ', made where nothing is sung' : ''
  return `${takes} ${takes === 1 ? 'take' : 'takes'}, ${lines} ${lines === 1 ? 'line' : 'lines'} picked${made}`
}

function doneTo(song: Song, layer: Layer): string {
  const own = wordsOf(layer.recipe)
  const role = wordsOf(recipeAt(song, { kind: 'role', role: layer.role }))
  const laid = [layer.tidy ? 'tidied' : '', layer.tune ? 'tuned' : '', layer.together ? 'brought to the lead' : '']
  return [...laid, own, role && `with its role: ${role}`].filter(Boolean).join('; ') || 'nothing'
}

function wordsOf({ enabled, steps }: Recipe, before = ''): string {
  const kinds = enabled ? steps.filter(step => step.enabled).map(({ kind }) => kind.replace('-', ' ')) : []
  return kinds.length > 0 ? before + kinds.join(', ') : ''
}

function sentTo({ spaces }: Song, { sends, throws }: Layer): string {
  const sent = sends.flatMap(send => {
    const space = spaces.find(({ id }) => id === send.spaceId)
    return space && (send.ride.length > 0 || send.gainDecibels > -60) ? [`${space.name} ${send.ride.length > 0 ? 'ridden' : decibels(send.gainDecibels)}`] : []
  })
  return [...sent, throws.length > 0 ? `${throws.length} thrown` : ''].filter(Boolean).join(', ') || 'nothing'
}

const decibels = (value: number) => `${Math.round(value * 10) / 10} dB`
const place = (pan: number) => (pan === 0 ? 'middle' : `${Math.round(100 * Math.abs(pan))} % ${pan < 0 ? 'left' : 'right'}`)

function clock(frames: number): string {
  const seconds = Math.round(frames / SAMPLE_RATE_HZ)
  return `${Math.floor(seconds / 60)}:${String(seconds % 60).padStart(2, '0')}`
}

/** Words of the song are words, whatever they look like. */
function escaped(text: string): string {
  return text.replace(/&/g, '&amp;').replace(/</g, '&lt;').replace(/>/g, '&gt;').replace(/"/g, '&quot;')
}
