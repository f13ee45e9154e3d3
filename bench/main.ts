/** Speed, as ratios to real time or to a reference: `npm run bench`. */
import { existsSync } from 'node:fs'
import { measureBeat } from './beat'
import { measureBooth } from './booth'
import { measureComp } from './comp'
import { measureCore } from './core'
import { measurePage } from './page'

const chromium = existsSync('/usr/bin/chromium') && existsSync('dist/index.html')
if (process.argv.includes('--booth')) await measureBooth()
else if (process.argv.includes('--beat')) await measureBeat()
else if (process.argv.includes('--comp')) await measureComp()
else {
  await measureCore()
  if (chromium) {
    await measurePage()
    await measureBeat()
    await measureComp()
    await measureBooth()
  } else console.log('in the browser: skipped, it needs Chromium and "npm run build"')
}
