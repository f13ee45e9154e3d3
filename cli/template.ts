/** `plush template`: whether a file is a template, and what it holds; or those that come with the app, as files. */
import { mkdir, readFile, writeFile } from 'node:fs/promises'
import { join } from 'node:path'
import { safeName } from '../src/core/files/names'
import { OUR_TEMPLATES } from '../src/core/layers/our-templates'
import { readTemplate, templateOf, writeTemplate } from '../src/core/layers/template-file'
import { fail } from './failure'
import { loadSongFile } from './song-file'

interface TemplateWish {
  check?: true
  of?: string
  name: string
  ours?: string
}

export async function aboutTemplate(file: string | undefined, { of, name, ours }: TemplateWish): Promise<void> {
  if (ours !== undefined) return writeOurs(ours)
  if (file === undefined) fail('a template file is needed, or --ours with a folder')
  if (of !== undefined) {
    const { song } = await loadSongFile(of)
    await writeFile(file, writeTemplate(templateOf(song, { name: name || song.title }))).catch((error: Error) =>
      fail(`${file} cannot be written: ${error.message}`),
    )
  }
  const read = readTemplate(await readFile(file, 'utf8').catch((error: Error) => fail(`${file}: ${error.message}`)))
  if (!read.ok) fail(`${file} cannot be used: ${read.why}`)
  const { template } = read
  console.log(
    JSON.stringify(
      {
        file,
        name: template.name,
        says: template.says,
        layers: template.layers.map(({ name: called, role }) => ({ name: called, role })),
        spaces: template.spaces.map(space => space.name),
      },
      null,
      1,
    ),
  )
}

async function writeOurs(folder: string): Promise<void> {
  await mkdir(folder, { recursive: true }).catch((error: Error) => fail(`${folder} cannot be made: ${error.message}`))
  for (const template of OUR_TEMPLATES) {
    const path = join(folder, `${safeName(template.name)}.json`)
    await writeFile(path, writeTemplate(template)).catch((error: Error) => fail(`${path} cannot be written: ${error.message}`))
    console.log(path)
  }
}
