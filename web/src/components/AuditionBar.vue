<script setup lang="ts">
/** With which note the patch is tried and drawn; the same in all views. */
import Button from 'primevue/button'
import Dialog from 'primevue/dialog'
import { useToast } from 'primevue/usetoast'
import { ref } from 'vue'

import ValueField from './field/ValueField.vue'
import ToggleSwitch from './ToggleSwitch.vue'
import { download } from '../composables/download'
import { bench } from '../engine/bench'
import { useDocument } from '../stores/document'
import { usePlaying } from '../stores/playing'
import { useSettings } from '../stores/settings'

const document = useDocument()
const playing = usePlaying()
const settings = useSettings()
const toast = useToast()
const rendering = ref(false)
const busy = ref(false)
const bits = ref(24)
const rateHz = ref(48_000)
const toItsEnd = ref(true)
const PARAMS = ['audition.note', 'audition.velocity', 'audition.hold_s', 'audition.window_s', 'audition.tempo_bpm'] as const

async function render() {
  busy.value = true
  try {
    const { name, bytes } = await bench().wav(document.text(), bits.value, rateHz.value, toItsEnd.value)
    download(bytes, name, 'audio/wav')
    rendering.value = false
  } catch (error) {
    toast.add({ severity: 'error', summary: 'Not rendered', detail: (error as Error).message, life: 6000 })
  } finally {
    busy.value = false
  }
}
</script>

<template>
  <div class="audition" role="toolbar" aria-label="Audition">
    <button type="button" class="btn primary" :aria-pressed="playing.auditioning" title="Play the auditioned note (Space)" @click="playing.auditioning ? playing.stop() : playing.play()">
      <i class="pi" :class="playing.auditioning ? 'pi-stop' : 'pi-play'" /> {{ playing.auditioning ? 'Stop' : 'Play' }}
    </button>
    <ToggleSwitch :on="playing.loop" label="Loop" @switch="playing.loop = $event" />
    <span class="rule" />
    <template v-for="param in PARAMS" :key="param">
      <ValueField v-if="document.value(param)" :value="document.value(param)!" inline />
    </template>
    <button type="button" class="btn" title="Let every note go at once" @click="playing.panic">Silence</button>
    <span v-if="!playing.started" class="note invite" role="status">Press a key, or click anywhere, to wake the sound</span>
    <span v-if="playing.failure" class="failure" role="alert" :title="playing.failure">{{ playing.failure }}</span>
    <span class="spacer" />
    <button type="button" class="btn" @click="rendering = true"><i class="pi pi-download" /> Render</button>
    <span class="rule" />
    <span class="muted">Time axis</span>
    <span class="seg" role="group" aria-label="Time axis">
      <button type="button" :aria-pressed="settings.axis === 'wide'" @click="settings.axis = 'wide'">Wide start</button>
      <button type="button" :aria-pressed="settings.axis === 'even'" @click="settings.axis = 'even'">Even</button>
    </span>
    <Dialog v-model:visible="rendering" modal header="Render the auditioned note" :style="{ width: '400px' }">
      <div class="choices">
        <span>Depth</span>
        <span class="seg" role="group" aria-label="Depth">
          <button v-for="depth in [16, 24, 32]" :key="depth" type="button" :aria-pressed="bits === depth" @click="bits = depth">{{ depth }} bit{{ depth === 32 ? ' float' : '' }}</button>
        </span>
        <span>Rate</span>
        <span class="seg" role="group" aria-label="Rate">
          <button v-for="rate in [44100, 48000, 96000, 192000]" :key="rate" type="button" :aria-pressed="rateHz === rate" @click="rateHz = rate">{{ rate / 1000 }} kHz</button>
        </span>
        <span>Length</span>
        <span class="seg" role="group" aria-label="Length">
          <button type="button" :aria-pressed="toItsEnd" @click="toItsEnd = true">To its end</button>
          <button type="button" :aria-pressed="!toItsEnd" @click="toItsEnd = false">The window</button>
        </span>
      </div>
      <template #footer><Button label="Save WAV" size="small" :loading="busy" @click="render" /></template>
    </Dialog>
  </div>
</template>

<style scoped>
.audition { display: flex; align-items: center; gap: 10px; background: var(--paper); border-bottom: 1px solid var(--hair-2); padding: 0 12px; height: var(--bar-h); white-space: nowrap; }
.invite { color: var(--op3); font-size: var(--fs-13); }
.failure { color: var(--warn); flex: 1 1 0; min-width: 60px; overflow: hidden; text-overflow: ellipsis; white-space: nowrap; }
.choices { display: grid; grid-template-columns: 70px 1fr; gap: 10px; align-items: center; }
.choices .seg { width: fit-content; }
</style>
