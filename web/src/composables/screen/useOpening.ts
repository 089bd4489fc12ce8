/** The patch of the address is opened. What is not there is told in the Library; a server that is gone is asked again. */
import { computed, onUnmounted, ref, watch } from 'vue'
import { useRoute, useRouter } from 'vue-router'

import { tellFirstLook } from './firstLook'
import { isOfPatch } from './isOfPatch'
import { Refusal } from '../../engine/api'
import { useDocument } from '../../stores/document'
import { useMessages } from '../../stores/messages'
import { useSaving } from '../../stores/saving'

/** When a server that is gone is asked again. */
const RETRY_MS = 1500

export function useOpening() {
  const route = useRoute()
  const router = useRouter()
  const messages = useMessages()
  const document = useDocument()
  const saving = useSaving()
  /** Why it is not open. */
  const problem = ref('')
  /** Until the patch of the address is there nothing of another one is shown, and nothing can be done to it. */
  const isOpen = computed(() => saving.id !== null && saving.id === Number(route.params.id))
  let retry = 0

  async function openNow() {
    const id = route.params.id
    const isHere = () => isOfPatch(route.name) && route.params.id === id
    window.clearTimeout(retry)
    if (!isOfPatch(route.name)) return
    // a patch is nothing without the core: it waits for nothing
    tellFirstLook()
    try {
      await document.start()
      if (!isHere()) return
      problem.value = (await saving.open(Number(id))) ?? ''
    } catch (error) {
      // an opening that was left says nothing
      if (!isHere()) return
      problem.value = error instanceof Error ? error.message : String(error)
      if (error instanceof Refusal && error.problem.status < 500) {
        messages.add({ severity: 'error', summary: 'Not opened', detail: problem.value, life: 6000 })
        void router.replace('/')
      } else retry = window.setTimeout(() => void openNow(), RETRY_MS)
    }
  }
  watch(() => route.params.id, () => {
    problem.value = ''
    void openNow()
  }, { immediate: true })
  onUnmounted(() => window.clearTimeout(retry))
  return { problem, isOpen, openNow }
}
