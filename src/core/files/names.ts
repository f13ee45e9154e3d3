/** Names of exported files. */

/** "Slow Ferry - vocals.wav": safe on every common file system. */
export function deliveryFileName(title: string, part: string, ending: string): string {
  return `${safeName(title)} - ${safeName(part)}.${ending}`
}

/** Without characters that file systems refuse; "Untitled" if nothing is left. */
export function safeName(name: string): string {
  const cleaned = name
    .normalize('NFC')
    .replace(/[\u0000-\u001f\u007f<>:"/\\|?*]/g, ' ')
    .replace(/\s+/g, ' ')
    .replace(/^[. ]+|[. ]+$/g, '')
    .slice(0, 80)
  return /^(con|prn|aux|nul|com\d|lpt\d)?$/i.test(cleaned) ? 'Untitled' : cleaned
}

/** A title from a beat's file name: without its ending, underscores as spaces. */
export function titleFromFileName(fileName: string): string {
  return safeName(fileName.replace(/\.[^.]{1,5}$/, '').replace(/_+/g, ' '))
}
