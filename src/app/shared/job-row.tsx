/** A job that runs, with a way to end it; otherwise what starts it. What failed says so. */
import { Text } from '@chakra-ui/react'
import type { ReactNode } from 'react'
import { Pill, ProgressBar } from './parts'
import type { useJob } from './use-job'

/** @param job As of `useJob`. @param failedText None where the card says it elsewhere. @param children What starts it. */
export function JobRow({
  job: { fraction, failed, cancel },
  label,
  failedText,
  children,
}: {
  job: Pick<ReturnType<typeof useJob>, 'fraction' | 'failed' | 'cancel'>
  label: string
  failedText?: string
  children: ReactNode
}) {
  return (
    <>
      {fraction === null ? (
        children
      ) : (
        <>
          <ProgressBar width="160px" fraction={fraction} label={label} />
          <Pill size="sm" onClick={cancel}>
            Cancel
          </Pill>
        </>
      )}
      {failed && failedText ? (
        <Text color="warn" role="alert">
          {failedText}
        </Text>
      ) : null}
    </>
  )
}
