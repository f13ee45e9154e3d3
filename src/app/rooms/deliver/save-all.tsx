/** Several finished files at once: into a folder, where the browser lets one be chosen, or as one zip. */
import { Flex, Text } from '@chakra-ui/react'
import { useState } from 'react'
import { writeZip } from '../../../core/files/zip'
import { safeName } from '../../../core/files/names'
import { Pill } from '../../shared/parts'
import { saveBlob } from '../../shared/save-blob'
import { currentSong } from '../../song/song-store'
import type { ReadyDelivery } from './deliveries'

export type FileToSave = { fileName: string } & Pick<ReadyDelivery, 'file'>

/** The part of the File System Access API that is asked of a browser that has it. */
interface Directory {
  getFileHandle(name: string, options: { create: true }): Promise<{ createWritable(): Promise<{ write(data: Blob): Promise<void>; close(): Promise<void> }> }>
}
const pickFolder = (globalThis as { showDirectoryPicker?: (options: { mode: 'readwrite' }) => Promise<Directory> }).showDirectoryPicker

export function SaveAll({ files }: { files: readonly FileToSave[] }) {
  const [told, setTold] = useState<string | null>(null)
  const zip = async () => saveBlob(await zipOf(files), `${safeName(currentSong().title)} - files.zip`)
  const folder = async () => {
    const directory = await pickFolder!({ mode: 'readwrite' })
    for (const { fileName, file } of files) {
      const writable = await (await directory.getFileHandle(fileName, { create: true })).createWritable()
      await writable.write(file!)
      await writable.close()
    }
    setTold(`${files.length} files lie in the folder.`)
  }
  const attempt = (act: () => Promise<void>) => () => {
    setTold(null)
    act().catch((error: unknown) => {
      // A chooser that was closed is an answer.
      if ((error as { name?: string }).name !== 'AbortError') setTold('They could not be saved: is there room, and may this page write there?')
    })
  }
  return (
    <Flex align="center" gap={2} mb={2} role="group" aria-label="All files">
      <Text>{files.length === 2 ? 'Both new files' : `All ${files.length} new files`}</Text>
      {pickFolder ? (
        <Pill size="xs" px={3} onClick={attempt(folder)}>
          into a folder …
        </Pill>
      ) : null}
      <Pill size="xs" px={3} onClick={attempt(zip)}>
        as one zip
      </Pill>
      <Text role="status" color="ink.soft">
        {told}
      </Text>
    </Flex>
  )
}

/** Bytes are asked for piece by piece, and the parts are the browser's to keep. */
async function zipOf(files: readonly FileToSave[]): Promise<Blob> {
  const parts: Blob[] = []
  async function* entries() {
    for (const { fileName, file } of files) yield { name: fileName, bytes: piecesOf(file!) }
  }
  await writeZip(entries(), bytes => void parts.push(new Blob([bytes])))
  return new Blob(parts, { type: 'application/zip' })
}

const PIECE_BYTES = 1 << 22

async function* piecesOf(file: Blob): AsyncGenerator<Uint8Array<ArrayBuffer>> {
  for (let at = 0; at < file.size; at += PIECE_BYTES) yield new Uint8Array(await file.slice(at, at + PIECE_BYTES).arrayBuffer())
}
