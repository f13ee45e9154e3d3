/** Opens the answers, which are fetched then. */
import { lazy, Suspense, useRef, useState } from 'react'
import { BarButton } from '../theme/theme-button'

const HelpDialog = lazy(() => import('./help-dialog').then(({ HelpDialog: Dialog }) => ({ default: Dialog })))

export function HelpButton() {
  const [open, setOpen] = useState(false)
  const button = useRef<HTMLButtonElement>(null)
  const close = () => {
    setOpen(false)
    button.current?.focus()
  }
  return (
    <>
      <BarButton ref={button} aria-haspopup="dialog" onClick={() => setOpen(true)}>
        Help
      </BarButton>
      {open ? (
        <Suspense fallback={null}>
          <HelpDialog onClose={close} />
        </Suspense>
      ) : null}
    </>
  )
}
