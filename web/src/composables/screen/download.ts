/** Hands a file to the browser's download. */
export function download(bytes: BlobPart, name: string, type: string) {
  const url = URL.createObjectURL(new Blob([bytes], { type }))
  const link = Object.assign(window.document.createElement('a'), { href: url, download: name })
  link.click()
  window.setTimeout(() => URL.revokeObjectURL(url), 10_000)
}

/** Fetches a file whose name the server gives. */
export function downloadFrom(url: string) {
  Object.assign(window.document.createElement('a'), { href: url, download: '' }).click()
}
