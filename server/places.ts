/** Where what is served lies. */
import { fileURLToPath } from 'node:url'

/** The built app: a folder, with a slash at its end. */
export const BUILT_PATH = fileURLToPath(new URL('../dist/', import.meta.url))

/** The generated demo song. */
export const DEMO_SONG_PATH = fileURLToPath(new URL('../.demo/slow-ferry.zip', import.meta.url))
