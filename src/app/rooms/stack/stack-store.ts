/** What the Stack room works on. */
import { create } from 'zustand'

export type Sheet = 'plan' | 'doubles' | 'lead' | 'part' | 'stage' | 'layers'

export const useStack = create<{ sheet: Sheet }>(() => ({ sheet: 'plan' }))
