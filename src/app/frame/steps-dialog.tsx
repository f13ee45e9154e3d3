/** Versions that were kept, and all that was done in the song, to go back to any step at once, and forth again. */
import { Box, chakra, Dialog, Text } from '@chakra-ui/react'
import { DialogCard } from '../shared/dialog-card'
import { History } from 'lucide-react'
import { useRef } from 'react'
import { create } from 'zustand'
import type { Step } from '../../core/song/history'
import { goToStep, useSongStore } from '../song/song-store'
import { BarButton } from '../theme/theme-button'
import { VersionsPanel } from './versions-panel'

export const useStepsDialog = create<{ open: boolean }>(() => ({ open: false }))

const NO_STEPS: readonly Step[] = []

const StepButton = chakra('button', {
  base: {
    display: 'block',
    width: '100%',
    textAlign: 'left',
    px: 3,
    py: '5px',
    borderRadius: '8px',
    cursor: 'pointer',
    _hover: { bg: 'sunken' },
    '&[aria-current]': { fontWeight: 600, bg: 'sunken' },
  },
})

export function StepsDialog() {
  const open = useStepsDialog(state => state.open)
  const done = useSongStore(state => state.history?.done ?? NO_STEPS)
  const undone = useSongStore(state => state.history?.undone ?? NO_STEPS)
  const now = done.at(-1)?.id ?? null
  const current = useRef<HTMLButtonElement>(null)
  return (
    <Dialog.Root
      open={open}
      onOpenChange={details => useStepsDialog.setState({ open: details.open })}
      initialFocusEl={() => current.current}
      scrollBehavior="inside"
      lazyMount
      unmountOnExit
    >
      <Dialog.Trigger asChild>
        <BarButton aria-label="All steps" title="Versions, and all steps, to go back to any (U)">
          <History size={15} aria-hidden />
        </BarButton>
      </Dialog.Trigger>
      <DialogCard title="Versions and steps">
        <Dialog.Body role="group" aria-label="All steps">
          <VersionsPanel onDone={() => useStepsDialog.setState({ open: false })} />
          <Text fontWeight={600} mt={5}>
            All steps, the last one first
          </Text>
          <Text color="ink.soft" mb={2}>
            Choose one to be right after it. Nothing is lost: the steps after it wait here until you do something else.
          </Text>
          <Box as="ol" listStyleType="none">
            {[...undone].reverse().map(step => (
              <li key={step.id}>
                <StepButton color="ink.soft" onClick={() => goToStep(step.id)}>
                  {step.label} <Box as="span">(undone)</Box>
                </StepButton>
              </li>
            ))}
            {[...done].reverse().map(step => (
              <li key={step.id}>
                <StepButton ref={step.id === now ? current : undefined} aria-current={step.id === now ? 'step' : undefined} onClick={() => goToStep(step.id)}>
                  {step.label}
                  {step.id === now ? ' · now' : ''}
                </StepButton>
              </li>
            ))}
            <li>
              <StepButton ref={now === null ? current : undefined} aria-current={now === null ? 'step' : undefined} onClick={() => goToStep(null)}>
                Before all of these{now === null ? ' · now' : ''}
              </StepButton>
            </li>
          </Box>
        </Dialog.Body>
      </DialogCard>
    </Dialog.Root>
  )
}
