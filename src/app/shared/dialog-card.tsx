/** The card of a dialog over the page: its title, what it holds, and unless it asks something a cross to close it. */
import { CloseButton, Dialog, Portal } from '@chakra-ui/react'
import type { ReactNode } from 'react'

interface DialogCardProps {
  title: string
  /** A question is answered by its buttons. */
  asks?: boolean
  children: ReactNode
}

/** Inside a `Dialog.Root`; `children` are its body and footer. */
export function DialogCard({ title, asks = false, children }: DialogCardProps) {
  return (
    <Portal>
      <Dialog.Backdrop />
      <Dialog.Positioner>
        <Dialog.Content bg="card" borderRadius="card">
          <Dialog.Header pb={2}>
            <Dialog.Title fontFamily="heading">{title}</Dialog.Title>
          </Dialog.Header>
          {children}
          {asks ? null : (
            <Dialog.CloseTrigger asChild>
              <CloseButton size="sm" aria-label="Close" />
            </Dialog.CloseTrigger>
          )}
        </Dialog.Content>
      </Dialog.Positioner>
    </Portal>
  )
}
