/** Asks before something that is used goes: says what would go, and closes on anything but the deed itself. */
import { Dialog, Flex } from '@chakra-ui/react'
import { DialogCard } from './dialog-card'
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
      <DialogCard title={question} asks>
        <Dialog.Body>
          {children}
          <Flex mt={4} gap={2} justify="end">
            <Pill onClick={onKeep}>Keep it</Pill>
            <PrimaryButton size="sm" disabled={!allowed} onClick={onDo}>
              {deed}
            </PrimaryButton>
          </Flex>
        </Dialog.Body>
      </DialogCard>
    </Dialog.Root>
  )
}
