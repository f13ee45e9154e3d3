/** Where the page begins. */
import '../core/without-eval'
import '@fontsource-variable/figtree/wght.css'
import '@fontsource-variable/fraunces/full.css'
import createCache from '@emotion/cache'
import { CacheProvider } from '@emotion/react'
import { ChakraProvider } from '@chakra-ui/react'
import { QueryClientProvider } from '@tanstack/react-query'
import { StrictMode } from 'react'
import { createRoot } from 'react-dom/client'
import { RouterProvider } from 'react-router'
import { whenOpen } from '../storage/open-tab'
import { queryClient } from './query-client'
import { fetchRooms, router } from './routes'
import { keepFocus } from './shared/keep-focus'
import { keepForOffline } from './shared/release'
import { system } from './theme/system'

const nonce = document.querySelector<HTMLMetaElement>('meta[name=csp-nonce]')?.content ?? ''
const styles = createCache({ key: 'plush', nonce })

createRoot(document.getElementById('root')!).render(
  <StrictMode>
    <CacheProvider value={styles}>
      <ChakraProvider value={system}>
        <QueryClientProvider client={queryClient}>
          <RouterProvider router={router} />
        </QueryClientProvider>
      </ChakraProvider>
    </CacheProvider>
  </StrictMode>,
)

keepFocus()
requestIdleCallback(() => void whenOpen().then(fetchRooms).then(keepForOffline))
