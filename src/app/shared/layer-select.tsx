/** Which layer a room works on. */
import { NativeSelect, type NativeSelectRootProps } from '@chakra-ui/react'
import type { LayerId } from '../../core/song/schema'
import { useView } from '../song/view-store'

interface LayerSelectProps extends NativeSelectRootProps {
  layerId: LayerId
  layers: readonly { id: string; name: string }[]
}

export function LayerSelect({ layerId, layers, ...root }: LayerSelectProps) {
  return (
    <NativeSelect.Root width="138px" flexShrink={0} {...root}>
      <NativeSelect.Field
        aria-label="Layer"
        bg="card"
        borderColor="seamline"
        borderRadius="full"
        value={layerId}
        onChange={event => useView.setState({ layerId: event.target.value as LayerId })}
      >
        {layers.map(({ id, name }) => (
          <option key={id} value={id}>
            {name}
          </option>
        ))}
      </NativeSelect.Field>
      <NativeSelect.Indicator />
    </NativeSelect.Root>
  )
}
