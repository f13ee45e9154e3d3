/** Stored reads are local and change only through this page: they are never stale by time. */
import { QueryClient } from '@tanstack/react-query'

export const queryClient = new QueryClient({
  defaultOptions: { queries: { staleTime: Infinity, retry: false, networkMode: 'always' }, mutations: { networkMode: 'always' } },
})
