<script setup lang="ts">
/** The frame all views share: bars above, view, keyboard below. Switching views never stops the sound. */
import { useEventListener } from '@vueuse/core'
import Toast from 'primevue/toast'
import { onMounted, ref } from 'vue'

import AuditionBar from './components/AuditionBar.vue'
import BottomBar from './components/BottomBar.vue'
import ConflictDialog from './components/ConflictDialog.vue'
import TopBar from './components/TopBar.vue'
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
useEventListener(window, 'keydown', (event) => {
  const typing = event.target instanceof HTMLElement && event.target.closest('input, textarea, [role=dialog]')
  if (typing) return
  const command = event.ctrlKey || event.metaKey
  if (command && event.key.toLowerCase() === 'z') {
    event.preventDefault()
    if (event.shiftKey) document.redo()
    else document.undo()
  } else if (command && event.key.toLowerCase() === 'y') {
    event.preventDefault()
    document.redo()
  } else if (event.code === 'Space' && !(event.target instanceof HTMLButtonElement)) {
    event.preventDefault()
    if (playing.auditioning) playing.stop()
    else playing.play()
  }
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
