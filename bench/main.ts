/** Speed, as ratios to real time or to a reference: `npm run bench`. */
import { existsSync } from 'node:fs'
import { measureBooth } from './booth'
import { measureCore } from './core'
import { measurePage } from './page'

const chromium = existsSync('/usr/bin/chromium')
if (process.argv.includes('--booth')) await measureBooth()
else {
  await measureCore()
  if (chromium && existsSync('dist/index.html')) await measurePage()
  else console.log('first paint to usable: skipped, it needs Chromium and "npm run build"')
  if (chromium) await measureBooth()
}
