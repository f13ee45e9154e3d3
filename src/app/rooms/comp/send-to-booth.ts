/** To the Booth for one line, with a bar before it, and back to Comp once it is sung. */
import type { LayerId, LineId, Song } from '../../../core/song/schema'
import { select, useView } from '../../song/view-store'
import { setBooth, useBoothSettings } from '../booth/booth-settings'
import { useRecorder } from '../booth/recorder-store'
import { setBench } from './bench-store'

export function sendToBooth(song: Song, layerId: LayerId, lineId: LineId, goTo: (room: 'booth' | 'comp') => void): void {
  select(song, { kind: 'lines', lineIds: [lineId] })
  useView.setState({ layerId })
  setBooth({ preRollBars: Math.max(1, useBoothSettings.getState().preRollBars) })
  useRecorder.setState({
    scope: { kind: 'selection' },
    onTaken: takeIds => {
      const takeId = takeIds.at(-1)
      select(song, { kind: 'lines', lineIds: [lineId] })
      setBench({ fine: 'line', freeOnly: false })
      goTo('comp')
      if (takeId) setBench({ focus: { layerId, takeId } })
    },
  })
  goTo('booth')
}
