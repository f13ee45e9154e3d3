// When anything in some folders and files was last changed.
import { readdirSync, statSync } from 'node:fs'
import { join } from 'node:path'

export function newest(root, places) {
  const times = places.map(place => {
    const path = join(root, place)
    if (!statSync(path).isDirectory()) return statSync(path).mtimeMs
    return Math.max(...readdirSync(path, { recursive: true }).map(file => statSync(join(path, file)).mtimeMs))
  })
  return Math.max(...times)
}
