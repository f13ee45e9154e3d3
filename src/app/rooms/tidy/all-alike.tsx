/** What one layer of a role has, for all of them, in one act; nothing where they have it. */
import { Pill } from '../../shared/parts'
import type { Layer, LayerId } from '../../../core/song/schema'
import { ROLE_NAMES } from '../../theme/roles'
import type { Line } from './use-line'

interface AllAlikeProps<P extends 'tidy' | 'tune'> {
  line: Line
  what: P
  lay: (layerIds: readonly LayerId[], label: string, policy: Layer[P]) => void
}

export function AllAlike<P extends 'tidy' | 'tune'>({ line: { layer, song }, what, lay }: AllAlikeProps<P>) {
  const alike = song.layers.filter(({ role }) => role === layer.role)
  const isAlike = alike.every(other => JSON.stringify(other[what]) === JSON.stringify(layer[what]))
  if (!layer[what] || isAlike) return null
  return (
    <Pill
      size="xs"
      px={3}
      title={`Every ${ROLE_NAMES[layer.role].toLowerCase()} as this one`}
      onClick={() =>
        lay(
          alike.map(({ id }) => id),
          `${what} every ${ROLE_NAMES[layer.role].toLowerCase()} alike`,
          layer[what],
        )
      }
    >
      All {alike.length} alike
    </Pill>
  )
}
