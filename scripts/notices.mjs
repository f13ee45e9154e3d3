// Writes THIRD-PARTY-NOTICES.md from the packages that ship with the app (run it when dependencies change).
import { existsSync, readFileSync, writeFileSync } from 'node:fs'

const { dependencies } = JSON.parse(readFileSync('package.json', 'utf8'))
const DEVELOPMENT_ONLY = new Set(['tsx'])
const seen = new Map()
const visit = name => {
  const path = `node_modules/${name}/package.json`
  if (seen.has(name) || DEVELOPMENT_ONLY.has(name) || !existsSync(path)) return
  const entry = JSON.parse(readFileSync(path, 'utf8'))
  seen.set(name, entry)
  Object.keys(entry.dependencies ?? {}).forEach(visit)
}
Object.keys(dependencies).forEach(visit)
const rows = [...seen.values()]
  .sort((a, b) => a.name.localeCompare(b.name))
  .map(entry => `| ${entry.name} | ${entry.version} | ${typeof entry.license === 'string' ? entry.license : (entry.license?.type ?? 'see package')} |`)
writeFileSync(
  'THIRD-PARTY-NOTICES.md',
  `# Third-party notices\n\nPlush Layer ships or is served with these packages, each under its own licence; the full texts lie in each package's folder.\nThe WebAssembly decoders and encoders contain mpg123, LAME and FFmpeg's AAC encoder (LGPL-2.1), libFLAC, libvorbis and libopus (BSD-3-Clause), used unmodified through their packages and replaceable with them.\nThe typefaces Fraunces and Figtree are under the SIL Open Font License 1.1.\n\n| package | version | licence |\n| --- | --- | --- |\n${rows.join('\n')}\n`,
)
console.log(`${rows.length} packages`)
