/** Hands a file to the browser to save. */

export function saveBlob(blob: Blob, fileName: string): void {
  const url = URL.createObjectURL(blob)
  const link = document.createElement('a')
  link.href = url
  link.download = fileName
  link.click()
  // The download has begun by then; its bytes are the browser's.
  setTimeout(() => URL.revokeObjectURL(url), 60_000)
}
