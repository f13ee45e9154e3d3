/** What the browser keeps for the app, and what of it can go without any loss. */
import { Flex, Text } from '@chakra-ui/react'
import { useState } from 'react'
import { emptyPrints } from '../../../storage/prints'
import { letDeliveredGo, type StorageUse } from '../../../storage/usage'
import { formatBytes } from '../../shared/format'
import { Pill } from '../../shared/parts'

/** Less is not worth a button. */
const WORTH_BYTES = 1e6

export function StorageLine({ use, onChange }: { use: StorageUse; onChange: () => void }) {
  const [isBusy, setBusy] = useState(false)
  const act = (work: () => Promise<void>) => async () => {
    setBusy(true)
    await work().catch(() => {})
    setBusy(false)
    onChange()
  }
  const songs = [...use.songs.values()].reduce((sum, bytes) => sum + bytes, 0)
  return (
    <Flex align="center" gap={3} wrap="wrap" mt={3} role="group" aria-label="Room on the disk" color="ink.soft">
      <Text>Songs take {formatBytes(songs)} in this browser.</Text>
      {use.remade > WORTH_BYTES ? (
        <Pill size="xs" px={3} disabled={isBusy} title="Tuned and mended sound: it is made again when it is played" onClick={() => void act(emptyPrints)()}>
          Free {formatBytes(use.remade)} that can be made again
        </Pill>
      ) : null}
      {use.delivered > WORTH_BYTES ? (
        <Pill size="xs" px={3} disabled={isBusy} title="Files that you saved are where you saved them" onClick={() => void act(letDeliveredGo)()}>
          Free {formatBytes(use.delivered)} of delivered files
        </Pill>
      ) : null}
    </Flex>
  )
}
