/** Speed, as ratios to real time or to a reference: `npm run bench`. */
import { existsSync } from 'node:fs'
import { measureBeat } from './beat'
import { measureBooth } from './booth'
import { measureComp } from './comp'
import { measureCore } from './core'
import { measurePage } from './page'

const chromium = existsSync('/usr/bin/chromium') && existsSync('dist/index.html')
const IN_THE_BROWSER = {
  '--beat': ['a beat from the drop to its facts', measureBeat],
  '--comp': ['Comp at 60 takes and 12 layers', measureComp],
  '--booth': ['recording', measureBooth],
} as const

async function measure(option: keyof typeof IN_THE_BROWSER): Promise<void> {
  const [what, run] = IN_THE_BROWSER[option]
  console.log(`in the browser, ${what}:`)
  await run()
}

const options = (Object.keys(IN_THE_BROWSER) as (keyof typeof IN_THE_BROWSER)[]).filter(option => process.argv.includes(option))
for (const option of options) await measure(option)
if (options.length === 0) {
  await measureCore()
  if (chromium) {
    await measurePage()
    for (const option of ['--beat', '--comp', '--booth'] as const) await measure(option)
  } else console.log('in the browser: skipped, it needs Chromium and "npm run build"')
}
