/** Hands a file to the browser's download. */
export function download(bytes: BlobPart, name: string, type: string) {
  const url = URL.createObjectURL(new Blob([bytes], { type }))
  const link = Object.assign(window.document.createElement('a'), { href: url, download: name })
  link.click()
  window.setTimeout(() => URL.revokeObjectURL(url), 10_000)
}

export function downloadText(text: string, name: string) {
  download(text, name.replace(/[^\p{L}\p{N}.]+/gu, '-').toLowerCase(), 'application/json')
}
