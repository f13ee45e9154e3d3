/** The open song's prints: which are made, and how many it still waits for. */
import { create } from 'zustand'
import { NO_PRINTS, type PrintTable } from '../../core/prints/jobs'
import type { AssetId } from '../../core/song/schema'

interface Prints {
  table: PrintTable
  /** How many the song still waits for. */
  waiting: number
  /** Keys of jobs that could not be done; they are tried again when the song is opened anew. */
  failed: ReadonlySet<string>
}

export const NO_PRINT_STATE: Prints = { table: NO_PRINTS, waiting: 0, failed: new Set() }
export const usePrints = create<Prints>(() => NO_PRINT_STATE)

/** It is not stored any more, for others needed the room: what it was made from plays until it is made again. */
export function dropPrint(assetId: AssetId): void {
  usePrints.setState(({ table }) => ({ table: new Map([...table].filter(([, id]) => id !== assetId)) }))
}

export function addPrint(key: string, assetId: AssetId): void {
  usePrints.setState(({ table }) => ({ table: new Map([...table, [key, assetId]]) }))
}
