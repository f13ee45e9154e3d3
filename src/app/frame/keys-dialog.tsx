/** The list of all keys; those of the room one is in come first. */
import { Box, chakra, Dialog, Grid, Heading } from '@chakra-ui/react'
import { DialogCard } from '../shared/dialog-card'
import { Fragment, useEffect, useState } from 'react'
import { useLocation } from 'react-router'
import { KeyCap } from '../shared/parts'
import { KEYS, ROOMS } from './rooms'
import { isTyping } from './use-song-keys'

const Trigger = chakra('button', { base: { color: 'ink.soft', cursor: 'pointer', whiteSpace: 'nowrap', _hover: { color: 'ink' } } })

export function KeysDialog() {
  const [open, setOpen] = useState(false)
  const path = useLocation().pathname.split('/').at(-1)
  const here = ROOMS.find(room => room.path === path)?.name
  const lists = [...KEYS].sort((a, b) => Number(b.room === here) - Number(a.room === here))
  useEffect(() => {
    const onKey = (event: KeyboardEvent) => {
      if (event.key === '?' && !isTyping(event)) setOpen(true)
    }
    addEventListener('keydown', onKey)
    return () => removeEventListener('keydown', onKey)
  }, [])
  return (
    <Dialog.Root open={open} onOpenChange={details => setOpen(details.open)} size="lg" scrollBehavior="inside">
      <Trigger onClick={() => setOpen(true)}>Keys ?</Trigger>
      <DialogCard title="Keys">
        {/* Scrolled by keys where it is taller than the page. */}
        <Dialog.Body tabIndex={0} role="group" aria-label="All keys">
          <Grid templateColumns="1fr 1fr" gap={5}>
            {lists.map(({ room, keys }) => (
              <Box key={room}>
                <Heading as="h3" fontSize="14px" mb={2}>
                  {room}
                </Heading>
                <Grid templateColumns="auto 1fr" columnGap={3} rowGap={1} alignItems="center">
                  {keys.map(([key, does]) => (
                    <Fragment key={key}>
                      <KeyCap>{key}</KeyCap>
                      <Box color="ink.soft">{does}</Box>
                    </Fragment>
                  ))}
                </Grid>
              </Box>
            ))}
          </Grid>
        </Dialog.Body>
      </DialogCard>
    </Dialog.Root>
  )
}
