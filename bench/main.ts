/** Speed, as ratios to real time or to a reference: `npm run bench`. */
import { existsSync } from 'node:fs'
import { measureCore } from './core'
import { measurePage } from './page'

await measureCore()
if (existsSync('/usr/bin/chromium') && existsSync('dist/index.html')) await measurePage()
else console.log('first paint to usable: skipped, it needs Chromium and "npm run build"')
