<script setup lang="ts">
/** The frame all views share: bars above, view, keyboard below. Switching views never stops the sound. */
import { useEventListener } from '@vueuse/core'
import Toast from 'primevue/toast'
import { useToast } from 'primevue/usetoast'
import { onMounted, ref, watchEffect } from 'vue'
import { useRoute, useRouter } from 'vue-router'

import AuditionBar from './components/AuditionBar.vue'
import BottomBar from './components/bottom/BottomBar.vue'
import ConflictDialog from './components/dialogs/ConflictDialog.vue'
import FindDialog from './components/dialogs/FindDialog.vue'
import HelpDialog from './components/dialogs/HelpDialog.vue'
import TipBubble from './components/TipBubble.vue'
import TopBar from './components/TopBar.vue'
import { workers } from './engine/workers'
import { isOfPatch } from './composables/screen/isOfPatch'
import { firstLook } from './composables/screen/firstLook'
import { useClipboard } from './composables/keys/useClipboard'
import { useRegions } from './composables/keys/useRegions'
import { useLongPress } from './composables/hand/useLongPress'
import { isCommand, isForButton, useShortcuts } from './composables/keys/useShortcuts'
import { loadViews } from './router'
import { useDocument } from './stores/document'
import { useMessages } from './stores/messages'
import { usePlaying } from './stores/playing'
import { useSaving } from './stores/saving'
import { useSettings } from './stores/settings'

/** Views of the open patch by their keys. */
const PLACES: Record<string, string> = { Digit1: '', Digit2: '/move', Digit3: '/finish' }

/** The page has had its turn after so many milliseconds. */
const IDLE_MS = 1000
/** A patch that was opened by its address has its first pictures after so many. */
const RESTED_MS = 3000

const document = useDocument()
const playing = usePlaying()
const saving = useSaving()
useSettings()
const route = useRoute()
const router = useRouter()
const toast = useToast()
useMessages().shownBy((message) => toast.add(message))
const failure = ref('')
const helping = ref(false)
const finding = ref(false)
useRegions()
useLongPress()
useClipboard(() => isOfPatch(route.name) && document.view !== undefined)
// the patch's name in the title, so that tabs can be told apart
watchEffect(() => {
  const name = isOfPatch(route.name) ? document.view?.name : undefined
  window.document.title = name ? `${name} · Zolvik` : 'Zolvik'
})
// from fields and dialogs too
useEventListener(window, 'keydown', (event) => {
  if (isCommand(event) && event.key.toLowerCase() === 'k') finding.value = true
  else if (event.key === 'F1') helping.value = true
  // over lists that are open too
  else if (event.altKey && !isCommand(event) && event.code in PLACES && saving.last !== null && !(event.target instanceof Element && event.target.closest('.p-dialog'))) void router.push(`/patch/${saving.last}${PLACES[event.code]}`)
  else return
  event.preventDefault()
})

onMounted(() => {
  // what was not saved last time is sent or offered, whatever is looked at; without the server it is tried again later
  saving.start().catch(() => {})
  firstLook().then(document.start).then(
    () => {
      if (!document.view) {
        document.ask({ ask: 'new' })
        document.select(null)
      }
      // a patch that is opened next finds its workers waiting
      const warmUp = () => {
        loadViews().catch(() => {})
        if (isOfPatch(route.name)) setTimeout(workers().warmUp, RESTED_MS)
        else workers().warmUp()
      }
      if ('requestIdleCallback' in window) requestIdleCallback(warmUp, { timeout: IDLE_MS })
      else setTimeout(warmUp, IDLE_MS)
    },
    (error: Error) => (failure.value = error.message),
  )
})

// the first gesture of any kind wakes the sound
useEventListener(window, 'pointerdown', () => void playing.start(), { once: true })
useShortcuts({
  down(event) {
    const letter = event.key.toLowerCase()
    if (isCommand(event) && letter === 'z') void (event.shiftKey ? document.redo() : document.undo())
    else if (isCommand(event) && letter === 'y') document.redo()
    else if (event.key === '?') helping.value = true
    else if (event.code === 'Space' && !isForButton(event)) {
      if (playing.auditioning) playing.stop()
      else playing.play()
    } else return false
    return true
  },
})
</script>

<template>
  <div class="frame">
    <TopBar />
    <AuditionBar @find="finding = true" @help="helping = true" />
    <p v-if="failure" class="failure" role="alert">{{ failure }}</p>
    <RouterView v-else />
    <BottomBar />
    <ConflictDialog />
    <FindDialog v-model:visible="finding" @help="helping = true" />
    <HelpDialog v-model:visible="helping" />
    <Toast position="bottom-center" />
    <TipBubble />
  </div>
</template>

<style scoped>
.frame { height: 100%; display: grid; grid-template-columns: minmax(0, 1fr); grid-template-rows: var(--top) var(--bar-h) minmax(0, 1fr) auto; }
@media (max-width: 760px), (max-height: 560px) { .frame { height: auto; min-height: 100vh; grid-template-rows: auto auto minmax(560px, 1fr) auto; } }
.failure { padding: 24px; color: var(--warn); font-size: var(--fs-15); }
</style>
