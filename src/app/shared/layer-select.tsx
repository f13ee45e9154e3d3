/** Which layer a room works on. */
import type { NativeSelectRootProps } from '@chakra-ui/react'
import type { LayerId } from '../../core/song/schema'
import { useView } from '../song/view-store'
import { PillSelect } from './pill-select'

interface LayerSelectProps extends Omit<NativeSelectRootProps, 'onChange'> {
  layerId: LayerId
  layers: readonly { id: string; name: string }[]
  /** What it is chosen for, where a room has more than one. */
  label?: string
}

export function LayerSelect({ layerId, layers, label = 'Layer', ...root }: LayerSelectProps) {
  const options = layers.map(({ id, name }) => ({ value: id, label: name }))
  return <PillSelect label={label} width="138px" value={layerId} options={options} onChoose={id => useView.setState({ layerId: id as LayerId })} {...root} />
}
