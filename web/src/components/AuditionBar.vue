<script setup lang="ts">
/** With which note the patch is tried and drawn; the same in all views. */
import Button from 'primevue/button'
import Dialog from './modalDialog'
import { computed, ref } from 'vue'
import { useRoute } from 'vue-router'

import ValueField from './field/ValueField.vue'
import ToggleSwitch from './ToggleSwitch.vue'
import ArticulationBar from './ArticulationBar.vue'
import { download } from '../composables/download'
import { bench } from '../engine/bench'
import type { RenderOf } from '../engine/generated/RenderOf'
import { useDocument } from '../stores/document'
import { useMessages } from '../stores/messages'
import { usePlaying } from '../stores/playing'
import { useSettings } from '../stores/settings'

defineEmits<{ find: []; help: [] }>()
const document = useDocument()
const playing = usePlaying()
const settings = useSettings()
const messages = useMessages()
const route = useRoute()
const inLibrary = computed(() => route.name === 'library')
const rendering = ref(false)
/** Whether what is muted for now is left out of the file. */
const leftOut = ref(false)
const busy = ref(false)
const bits = ref(24)
const rateHz = ref(48_000)
const toItsEnd = ref(true)
const NOTE = ['audition.note', 'audition.velocity', 'audition.hold_s', 'audition.window_s', 'audition.tempo_bpm'] as const
const PHRASE = ['audition.note', 'audition.tempo_bpm'] as const
/** A phrase has its own velocities and lengths. */
const params = computed(() => (settings.showsPhrase && !inLibrary.value ? PHRASE : NOTE))
/** What is written to the file. */
const what = ref<RenderOf>('note')
const hasBeat = computed(() => (document.view?.choices.find(({ id }) => id === 'playing.beat')?.at ?? 0) > 0)
function ask() {
  what.value = settings.showsPhrase ? 'phrase' : 'note'
  rendering.value = true
}

async function render() {
  busy.value = true
  try {
    const { name, bytes } = await bench().wav(document.text(), leftOut.value ? document.view?.listening : undefined, bits.value, rateHz.value, toItsEnd.value, what.value)
    download(bytes, name, 'audio/wav')
    rendering.value = false
  } catch (error) {
    messages.add({ severity: 'error', summary: 'Not rendered', detail: (error as Error).message, life: 6000 })
  } finally {
    busy.value = false
  }
}
</script>

<template>
  <section class="audition" aria-label="Audition">
    <button type="button" class="btn primary" :disabled="inLibrary && !playing.heard" :aria-pressed="playing.auditioning" :title="`Play the ${playing.of} (Space)`" @click="playing.auditioning ? playing.stop() : playing.play()">
      <i class="pi" :class="playing.auditioning ? 'pi-stop' : 'pi-play'" /> {{ playing.auditioning ? 'Stop' : 'Play' }}
    </button>
    <span v-if="inLibrary" class="heard note" data-testid="heard">{{ playing.heard ?? 'nothing loaded: hear a patch below' }}</span>
    <ToggleSwitch :on="playing.loop" label="Loop" @switch="playing.loop = $event" />
    <span class="rule" />
    <template v-for="param in params" :key="param">
      <ValueField v-if="document.value(param)" :value="document.value(param)!" inline />
    </template>
    <button type="button" class="btn" title="Let every note go at once" @click="playing.panic">Silence</button>
    <ArticulationBar v-if="!inLibrary && document.view" />
    <span v-if="!playing.started" class="note invite" role="status">Press a key, or click anywhere, to wake the sound</span>
    <span v-if="playing.failure" class="failure" role="alert" :title="playing.failure">{{ playing.failure }}</span>
    <span class="spacer grow" />
    <button v-if="!inLibrary" type="button" class="btn" @click="ask"><i class="pi pi-download" /> Render</button>
    <button type="button" class="btn" title="Find any action, strip, value or patch by name; or type a strip" @click="$emit('find')">Find <kbd>Ctrl K</kbd></button>
    <span v-if="!inLibrary" class="seg" role="group" aria-label="Picture">
      <button type="button" :aria-pressed="settings.picture === 'note'" title="The picture and Play show the auditioned note" @click="settings.picture = 'note'">Note</button>
      <button type="button" :aria-pressed="settings.picture === 'phrase'" title="The picture and Play show the phrase" @click="settings.picture = 'phrase'">Phrase</button>
    </span>
    <span v-if="!inLibrary && !settings.showsPhrase" class="seg" role="group" aria-label="Time axis">
      <button type="button" :aria-pressed="settings.axis === 'wide'" title="Time axis: the beginning of the note is drawn larger" @click="settings.axis = 'wide'">Start enlarged</button>
      <button type="button" :aria-pressed="settings.axis === 'even'" title="Time axis: every second is as wide as every other" @click="settings.axis = 'even'">Even</button>
    </span>
    <button type="button" class="icon-btn help" aria-label="Keys and gestures" title="Keys and gestures (?)" @click="$emit('help')">?</button>
    <Dialog v-model:visible="rendering" modal header="Render" :style="{ width: '400px' }">
      <div class="choices">
        <span>What</span>
        <span class="seg" role="group" aria-label="What is rendered">
          <button type="button" :aria-pressed="what === 'note'" @click="what = 'note'">Note</button>
          <button type="button" :aria-pressed="what === 'phrase'" :disabled="!document.view?.phrase" @click="what = 'phrase'">Phrase</button>
          <button type="button" :aria-pressed="what === 'beat'" :disabled="!document.view?.phrase || !hasBeat" @click="what = 'beat'">Phrase and beat</button>
        </span>
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
          <button type="button" :aria-pressed="!toItsEnd" @click="toItsEnd = false">What is shown</button>
        </span>
      </div>
      <p v-if="document.isListening" class="muted-now" role="status" data-testid="muted-now">
        Something is muted, soloed or bypassed for now. <label><input v-model="leftOut" type="checkbox" /> Save it as it is heard now, without that</label>
      </p>
      <template #footer><Button label="Save WAV" size="small" :loading="busy" @click="render" /></template>
    </Dialog>
  </section>
</template>

<style scoped>
.audition { display: flex; align-items: center; gap: 10px; background: var(--paper); border-bottom: 1px solid var(--hair-2); padding: 0 12px; height: var(--bar-h); white-space: nowrap; min-width: 0; overflow-x: auto; scrollbar-width: none; }
.audition > * { flex: none; }
.audition > .grow { flex: 1 0 0; }
@media (max-width: 1400px) { kbd { display: none; } }
@media (max-width: 1100px) { .audition { gap: 6px; padding: 0 8px; } }
kbd { font: inherit; font-size: var(--fs-11); border: 1px solid var(--hair-2); border-radius: var(--r); padding: 0 4px; color: var(--ink-2); }
.help { font-weight: 600; border: 1px solid var(--hair-2); }
.heard { max-width: 200px; overflow: hidden; text-overflow: ellipsis; }
.muted-now label { display: block; margin-top: 4px; font-weight: 600; }
.invite { color: var(--op3); font-size: var(--fs-13); }
.failure { color: var(--warn); flex: 1 1 0 !important; min-width: 60px; overflow: hidden; text-overflow: ellipsis; white-space: nowrap; }
.choices { display: grid; grid-template-columns: 70px 1fr; gap: 10px; align-items: center; }
.choices .seg { width: fit-content; }
</style>
