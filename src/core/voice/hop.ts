/** Analyses of a voice step by 5 ms. */
export const HOP_SECONDS = 0.005
