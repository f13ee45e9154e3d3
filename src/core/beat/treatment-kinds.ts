/** The colours that a stretch of the beat can have. */
export const TREATMENT_KINDS = ['level', 'low cut', 'far away', 'worn tape'] as const
export type TreatmentKind = (typeof TREATMENT_KINDS)[number]
