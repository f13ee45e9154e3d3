/** The usual layers, laid out by one click from any room. */
import { layTemplate } from '../../core/layers/template'
import { makeId } from '../../storage/database'
import { currentSong, edit } from './song-store'
import { useView } from './view-store'

/** Lays out the vocal template; the first layer is the one to sing on. */
export function layOutTemplate(): void {
  edit('lay out the template', song => layTemplate(song, { makeId }))
  useView.setState({ layerId: currentSong().layers[0]?.id ?? null })
}
