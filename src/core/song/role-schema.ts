/** What a layer is for. */
import { z } from 'zod'

export const RoleSchema = z.enum(['lead', 'double', 'high-harmony', 'low-harmony', 'octave', 'ad-lib', 'spare'])
export type Role = z.infer<typeof RoleSchema>
