/** Asks before something that is used goes: says what would go, and closes on anything but the deed itself. */
import { Dialog, Flex, Portal } from '@chakra-ui/react'
import type { ReactNode } from 'react'
import { Pill, PrimaryButton } from './parts'

export interface SureDialogProps {
  open: boolean
  question: string
  /** The button that does it, such as "Put it in the bin". */
  deed: string
  allowed: boolean
  onDo: () => void
  onKeep: () => void
  children: ReactNode
}

export function SureDialog({ open, question, deed, allowed, onDo, onKeep, children }: SureDialogProps) {
  return (
    <Dialog.Root role="alertdialog" open={open} onOpenChange={details => !details.open && onKeep()}>
      <Portal>
        <Dialog.Backdrop />
        <Dialog.Positioner>
          <Dialog.Content bg="card" borderRadius="card">
            <Dialog.Header>
              <Dialog.Title fontFamily="heading">{question}</Dialog.Title>
            </Dialog.Header>
            <Dialog.Body>
              {children}
              <Flex mt={4} gap={2} justify="end">
                <Pill onClick={onKeep}>Keep it</Pill>
                <PrimaryButton size="sm" disabled={!allowed} onClick={onDo}>
                  {deed}
                </PrimaryButton>
              </Flex>
            </Dialog.Body>
          </Dialog.Content>
        </Dialog.Positioner>
      </Portal>
    </Dialog.Root>
  )
}
