/** The one simulated interface of this audio clock: the output worklet sends into it, the input worklet reads from it. */
import { SimulatedInterface } from '../core/rehearsal/simulated-interface'

export const simulated = new SimulatedInterface()
