/** A template, laid out by one click from any room. */
import { layTemplate } from '../../core/layers/lay-template'
import type { Template } from '../../core/layers/template-schema'
import { makeId } from '../../storage/database'
import { setBooth } from '../recording/booth-settings'
import { setDeliver } from './deliver-settings'
import { currentSong, edit } from './song-store'
import { chosenTemplate } from './templates'
import { useView } from './view-store'

/** Lays it out; the first layer is the one to sing on. What it says of the Booth and of names holds from now on. */
export function layOutTemplate(template: Template = chosenTemplate()): void {
  const hadLayers = currentSong().layers.length > 0
  edit('lay out the template', song => layTemplate(song, { template, makeId }))
  if (template.booth) setBooth(template.booth)
  if (template.pattern) setDeliver({ pattern: template.pattern })
  if (!hadLayers) useView.setState({ layerId: currentSong().layers[0]?.id ?? null })
}
