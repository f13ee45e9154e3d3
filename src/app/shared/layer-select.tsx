/** Which layer a room works on. */
import type { NativeSelectRootProps } from '@chakra-ui/react'
import type { LayerId } from '../../core/song/schema'
import { useView } from '../song/view-store'
import { PillSelect } from './pill-select'

interface LayerSelectProps extends Omit<NativeSelectRootProps, 'onChange'> {
  layerId: LayerId
  layers: readonly { id: string; name: string }[]
}

export function LayerSelect({ layerId, layers, ...root }: LayerSelectProps) {
  const options = layers.map(({ id, name }) => ({ value: id, label: name }))
  return <PillSelect label="Layer" width="138px" value={layerId} options={options} onChoose={id => useView.setState({ layerId: id as LayerId })} {...root} />
}
