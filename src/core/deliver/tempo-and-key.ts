/** Tempo and key as a comment, for formats that have no field for them. */
export function tempoAndKey({ tempoBpm, key }: { tempoBpm?: number | undefined; key?: string | undefined }): string {
  return [tempoBpm ? `${Math.round(tempoBpm)} bpm` : '', key ?? ''].filter(Boolean).join(', ')
}
