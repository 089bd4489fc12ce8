/** Files dropped anywhere on the page. */
import { useEventListener } from '@vueuse/core'
import { ref, type Ref } from 'vue'

/** Gives whether files hang over the page. */
export function useDropped(take: (files: File[]) => unknown): Ref<boolean> {
  const over = ref(false)
  const holdsFiles = (event: DragEvent) => event.dataTransfer?.types.includes('Files') ?? false
  useEventListener(window, 'dragover', (event) => {
    if (!holdsFiles(event)) return
    event.preventDefault()
    over.value = true
  })
  useEventListener(window, 'dragleave', (event) => {
    if (event.relatedTarget === null) over.value = false
  })
  useEventListener(window, 'drop', (event) => {
    over.value = false
    const files = [...(event.dataTransfer?.files ?? [])]
    if (!files.length) return
    event.preventDefault()
    take(files)
  })
  return over
}
