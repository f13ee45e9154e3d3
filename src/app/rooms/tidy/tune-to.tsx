/** What the notes are drawn to: all of the layer's, and those of the line that is looked at. */
import { Text } from '@chakra-ui/react'
import type { LayerId } from '../../../core/song/schema'
import type { LayerTune, TuneTo } from '../../../core/song/tidy-schema'
import { formatKey } from '../../shared/format'
import { PillSelect } from '../../shared/pill-select'
import { layTune, layTuneOfLine } from './tidying'
import type { Line } from './use-line'

const AS_ALL = 'as all'

function valueOf(to: TuneTo): string {
  return to.kind === 'layer' ? to.layerId : to.kind
}

function readValue(value: string): TuneTo {
  return value === 'key' || value === 'chord' || value === 'part' ? { kind: value } : { kind: 'layer', layerId: value as LayerId }
}

export function TuneToChoice({ line, tune }: { line: Line; tune: LayerTune }) {
  const { song, layer, lineId } = line
  const options = [
    { value: 'key', label: formatKey(song.beat.key) },
    { value: 'chord', label: 'the chord that sounds' },
    ...(layer.part.length > 0 ? [{ value: 'part', label: 'what it is to sing' }] : []),
    ...song.layers.filter(({ id }) => id !== layer.id).map(({ id, name }) => ({ value: id as string, label: `what ${name} sings` })),
  ]
  const labelOf = (value: string) => options.find(option => option.value === value)?.label ?? value
  // A layer that is gone says nothing: the key does.
  const known = (to: TuneTo) => (options.some(({ value }) => value === valueOf(to)) ? valueOf(to) : 'key')
  const own = tune.lines.find(entry => entry.lineId === lineId)
  return (
    <>
      <Text color="ink.soft">to</Text>
      <PillSelect
        size="xs"
        width="132px"
        label="Notes are drawn to"
        value={known(tune.to)}
        options={options}
        onChoose={value => layTune([layer.id], `tune ${layer.name} to ${labelOf(value)}`, { ...tune, to: readValue(value) })}
      />
      {lineId ? (
        <>
          <Text color="ink.soft">this line</Text>
          <PillSelect
            size="xs"
            width="118px"
            label="This line is drawn to"
            value={own ? known(own.to) : AS_ALL}
            options={[{ value: AS_ALL, label: 'to the same' }, ...options]}
            onChoose={value =>
              layTuneOfLine(layer.id, `tune this line to ${value === AS_ALL ? 'the same' : labelOf(value)}`, {
                lineId,
                to: value === AS_ALL ? null : readValue(value),
              })
            }
          />
        </>
      ) : null}
    </>
  )
}
