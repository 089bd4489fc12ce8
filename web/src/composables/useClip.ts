/** What was copied of a source, for as long as the page is open; other patches may take it too. */
import { ref, type Ref } from 'vue'

const copied = ref('')

export function useClip(): { copied: Ref<string>; copy: (text: string) => void } {
  return { copied, copy: (text) => (copied.value = text) }
}
