<script setup lang="ts">
/** With which note the patch is tried and drawn; the same in all views. */
import { useMediaQuery } from '@vueuse/core'
import { computed, ref, useTemplateRef } from 'vue'
import { useRoute } from 'vue-router'

import ValueField from './field/ValueField.vue'
import ToggleSwitch from './ToggleSwitch.vue'
import ArticulationBar from './ArticulationBar.vue'
import RenderDialog from './dialogs/RenderDialog.vue'
import { NARROW, useDrawer } from '../composables/screen/useDrawer'
import { useFits } from '../composables/screen/useFits'
import { useDocument } from '../stores/document'
import { usePlaying } from '../stores/playing'
import { useSettings } from '../stores/settings'

defineEmits<{ find: []; help: [] }>()
const document = useDocument()
const playing = usePlaying()
const settings = useSettings()
const route = useRoute()
const inLibrary = computed(() => route.name === 'library')
const rendering = ref(false)
/** On a narrow window the inspector is a drawer. */
const narrow = useMediaQuery(NARROW)
const drawer = useDrawer()
const NOTE = ['audition.note', 'audition.velocity', 'audition.hold_s', 'audition.window_s', 'audition.tempo_bpm'] as const
const PHRASE = ['audition.note', 'audition.tempo_bpm'] as const
/** A phrase has its own velocities and lengths. */
const params = computed(() => (settings.showsPhrase && !inLibrary.value ? PHRASE : NOTE))
/** What goes first where it is too much: words that a sign or a neighbour says; then variants side by side, and what stands between. */
const left = useFits(useTemplateRef('bar'), 3, () => [
  inLibrary.value, settings.showsPhrase, playing.started, playing.failure, playing.auditioning, document.view?.articulation,
  params.value.map((param) => document.value(param)?.number.length),
  document.view?.articulations.map(({ name, key_name }) => name + key_name),
].flat().join())
</script>

<template>
  <section ref="bar" class="audition" :class="{ short: left > 0, tight: left > 2 }" aria-label="Audition">
    <button type="button" class="btn primary" :disabled="inLibrary && !playing.heard" :aria-pressed="playing.auditioning" :title="`Play the ${playing.of} (Space)`" @click="playing.auditioning ? playing.stop() : playing.play()">
      <i class="pi" :class="playing.auditioning ? 'pi-stop' : 'pi-play'" /> {{ playing.auditioning ? 'Stop' : 'Play' }}
    </button>
    <span v-if="inLibrary" class="heard note" data-testid="heard">{{ playing.heard ?? 'nothing loaded: hear a patch below' }}</span>
    <ToggleSwitch :on="playing.loop" label="Loop" @switch="playing.loop = $event" />
    <span class="rule" />
    <template v-for="param in params" :key="param">
      <ValueField v-if="document.value(param)" :value="document.value(param)!" inline />
    </template>
    <button type="button" class="btn" title="Let every note go at once" aria-label="All notes off" @click="playing.panic"><i v-if="left > 0" class="pi pi-volume-off" /><template v-else>All notes off</template></button>
    <ArticulationBar v-if="!inLibrary && document.view" :folded="left > 1" />
    <span v-if="!playing.started" class="note invite" role="status" title="Browsers let a page sound only after a gesture: press a key, or click anywhere">Press a key or click to turn sound on</span>
    <span v-if="playing.failure" class="failure" role="alert" :title="playing.failure">{{ playing.failure }}</span>
    <span class="spacer grow" />
    <button v-if="!inLibrary" type="button" class="btn" aria-label="Render" title="Render to files" @click="rendering = true"><i class="pi pi-download" /> <span class="long">Render</span></button>
    <button type="button" class="btn" title="Find any action, strip, value or patch by name; or type a strip" @click="$emit('find')">Find <kbd>Ctrl K</kbd></button>
    <span v-if="!inLibrary" class="seg" role="group" aria-label="Picture">
      <button type="button" :aria-pressed="settings.picture === 'note'" title="The picture and Play show the auditioned note" @click="settings.picture = 'note'">Note</button>
      <button type="button" :aria-pressed="settings.picture === 'phrase'" title="The picture and Play show the phrase" @click="settings.picture = 'phrase'">Phrase</button>
    </span>
    <span v-if="!inLibrary && !settings.showsPhrase" class="seg" role="group" aria-label="Time axis">
      <button type="button" :aria-pressed="settings.axis === 'wide'" title="Time axis: the beginning of the note is drawn larger" @click="settings.axis = 'wide'">Zoom<span class="long"> on attack</span></button>
      <button type="button" :aria-pressed="settings.axis === 'even'" title="Time axis: every second is as wide as every other" @click="settings.axis = 'even'">Linear<span class="long"> time</span></button>
    </span>
    <button v-if="narrow && !inLibrary" type="button" class="btn" :aria-pressed="drawer" aria-label="Inspector" :title="drawer ? 'Close the inspector' : 'Open the inspector'" @click="drawer = !drawer"><i class="pi pi-sliders-h" /></button>
    <button type="button" class="icon-btn help" aria-label="Keys and gestures" title="Keys and gestures (?)" @click="$emit('help')">?</button>
    <RenderDialog v-model:visible="rendering" />
  </section>
</template>

<style scoped>
.audition { display: flex; align-items: center; gap: 10px; background: var(--paper); border-bottom: 1px solid var(--hair-2); padding: 0 12px; height: var(--bar-h); white-space: nowrap; min-width: 0; overflow-x: auto; scrollbar-width: none; }
.audition > * { flex: none; }
.audition > .grow { flex: 1 0 0; }
.short kbd, .tight .rule { display: none; }
.tight { gap: 4px; padding: 0 6px; }
@media (max-width: 1100px) { .audition { gap: 6px; padding: 0 8px; } }
@media (max-width: 760px), (max-height: 560px) { .audition { flex-wrap: wrap; overflow: visible; padding: 4px 8px; row-gap: 4px; } }
kbd { font: inherit; font-size: var(--fs-11); border: 1px solid var(--hair-2); border-radius: var(--r); padding: 0 4px; color: var(--ink-2); }
.short .long { display: none; }
.help { font-weight: 600; border: 1px solid var(--hair-2); }
.heard { max-width: 200px; overflow: hidden; text-overflow: ellipsis; }
.invite { color: var(--op3); font-size: var(--fs-13); }
.short > .invite { flex: 0 1 auto; min-width: 0; overflow: hidden; text-overflow: ellipsis; }
.failure { color: var(--warn); flex: 1 1 0 !important; min-width: 60px; overflow: hidden; text-overflow: ellipsis; white-space: nowrap; }
</style>
