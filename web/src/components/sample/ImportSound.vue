<script setup lang="ts">
/** A recording into the store: progress, cancel, and why not if not. Without strips that take it a new one does. */
import Button from 'primevue/button'
import Dialog from '../dialogs/modalDialog'
import ProgressBar from 'primevue/progressbar'
import { ref } from 'vue'

import { uploadSound } from '../../engine/sounds'
import { useDocument } from '../../stores/document'

const props = defineProps<{ units: number[] }>()
const visible = defineModel<boolean>('visible', { required: true })
const document = useDocument()
const input = ref<HTMLInputElement>()
const problem = ref('')
const share = ref<number | null>(null)
let cancel: AbortController | undefined

function choose(event: Event) {
  const chosen = event.target as HTMLInputElement
  const file = chosen.files?.[0]
  chosen.value = ''
  if (file) void bring(file)
}
async function bring(file: File) {
  visible.value = true
  problem.value = ''
  share.value = 0
  cancel = new AbortController()
  try {
    const sound = await uploadSound(file, (done) => (share.value = done), cancel.signal)
    problem.value = document.alter({ ask: 'add_sound', units: props.units, sound }) ?? ''
    document.refusal = ''
    if (!problem.value) visible.value = false
  } catch (error) {
    problem.value = `${file.name}: ${error instanceof Error ? error.message : String(error)}`
  } finally {
    share.value = null
  }
}
defineExpose({ bring })
</script>

<template>
  <Dialog v-model:visible="visible" modal header="Import a recording" :style="{ width: '440px' }">
    <p>WAV, FLAC, AIFF or OGG Vorbis, up to two minutes and 64 MB. Several channels are mixed to one. It is kept once in the library, by its content.</p>
    <ProgressBar v-if="share !== null" :value="Math.round(share * 100)" />
    <p v-if="problem" class="problem" role="alert">{{ problem }}</p>
    <input ref="input" type="file" accept=".wav,.flac,.aif,.aiff,.ogg,.oga,audio/*" hidden data-testid="sound-file" @change="choose" />
    <template #footer>
      <Button v-if="share !== null" label="Cancel" size="small" severity="secondary" @click="cancel?.abort()" />
      <Button label="Choose a file" size="small" :loading="share !== null" @click="input?.click()" />
    </template>
  </Dialog>
</template>

<style scoped>
.problem { color: var(--warn); background: var(--warn-bg); padding: 6px 8px; border-radius: var(--r); }
</style>
