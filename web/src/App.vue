<script setup lang="ts">
/** The frame all views share: bars above, view, keyboard below. Switching views never stops the sound. */
import { useEventListener } from '@vueuse/core'
import Toast from 'primevue/toast'
import { onMounted, ref } from 'vue'

import AuditionBar from './components/AuditionBar.vue'
import BottomBar from './components/BottomBar.vue'
import ConflictDialog from './components/ConflictDialog.vue'
import TopBar from './components/TopBar.vue'
import { isCommand, useShortcuts } from './composables/useShortcuts'
import { useDocument } from './stores/document'
import { usePlaying } from './stores/playing'
import { useSaving } from './stores/saving'
import { useSettings } from './stores/settings'

const document = useDocument()
const playing = usePlaying()
const saving = useSaving()
useSettings()
const failure = ref('')

onMounted(() => {
  // what was not saved last time is sent or offered, whatever is looked at; without the server it is tried again later
  saving.start().catch(() => {})
  document.start().then(
    () => {
      if (!document.view) document.ask({ ask: 'new' })
      document.select(null)
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
    else if (event.code === 'Space' && !(event.target instanceof HTMLButtonElement)) {
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
    <AuditionBar />
    <p v-if="failure" class="failure" role="alert">{{ failure }}</p>
    <RouterView v-else />
    <BottomBar />
    <ConflictDialog />
    <Toast position="bottom-center" />
  </div>
</template>

<style scoped>
.frame { height: 100%; display: grid; grid-template-columns: minmax(0, 1fr); grid-template-rows: var(--top) var(--bar-h) minmax(0, 1fr) var(--bottom); }
.failure { padding: 24px; color: var(--warn); font-size: var(--fs-15); }
</style>
