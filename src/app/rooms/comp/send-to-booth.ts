/** One line is sung at once in the Booth, with a bar before it; then back to Comp. */
import type { LayerId, LineId, Song } from '../../../core/song/schema'
import { select, useView } from '../../song/view-store'
import { singAgain } from '../../recording/recorder'
import { useRecorder } from '../../recording/recorder-store'
import { setBench } from './bench-store'

export function sendToBooth(song: Song, layerId: LayerId, lineId: LineId, goTo: (room: 'booth' | 'comp') => void): void {
  select(song, { kind: 'lines', lineIds: [lineId] })
  useView.setState({ layerId })
  useRecorder.setState({
    onTaken: takeIds => {
      const takeId = takeIds.at(-1)
      select(song, { kind: 'lines', lineIds: [lineId] })
      setBench({ fine: 'line', freeOnly: false })
      goTo('comp')
      if (takeId) setBench({ focus: { layerId, takeId } })
    },
  })
  singAgain('line', () => goTo('booth'))
}
