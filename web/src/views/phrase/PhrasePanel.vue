<script setup lang="ts">
/** The phrase between strips and result: which one, its beat, its notes, and what is chosen of them. */
import { computed, ref } from 'vue'

import NoteField from './NoteField.vue'
import PhraseGrid from './PhraseGrid.vue'
import PhrasePicker from './PhrasePicker.vue'
import TypedText from '../../components/field/TypedText.vue'
import ValueField from '../../components/field/ValueField.vue'
import NameField from '../../components/NameField.vue'
import { download } from '../../composables/screen/download'
import type { Axis } from '../../draw/axis'
import type { DocumentView } from '../../engine/generated/DocumentView'
import { useDocument } from '../../stores/document'
import { useMessages } from '../../stores/messages'
import { usePlaying } from '../../stores/playing'
import { useSettings } from '../../stores/settings'

const props = defineProps<{ view: DocumentView; axis: Axis; cursorX: number }>()
const document = useDocument()
const playing = usePlaying()
const settings = useSettings()
const messages = useMessages()
const selected = ref<number[]>([])
const picker = ref<InstanceType<typeof PhrasePicker>>()
const input = ref<HTMLInputElement>()
const GRIDS: [number, string][] = [[1, '1/4'], [0.5, '1/8'], [1 / 3, '1/8 triplet'], [0.25, '1/16'], [1 / 6, '1/16 triplet'], [0.125, '1/32'], [0, 'free']]
const phrase = computed(() => props.view.phrase)
const one = computed(() => phrase.value?.notes[selected.value[0]])
const beat = computed(() => props.view.choices.find(({ id }) => id === 'playing.beat'))
const bars = computed(() => (phrase.value ? Math.round((phrase.value.length_beats / 4) * 100) / 100 : 0))

async function imports(event: Event) {
  const chosen = event.target as HTMLInputElement
  const file = chosen.files?.[0]
  if (!file) return
  const why = document.alterBy(new Uint8Array(await file.arrayBuffer()), { ask: 'import_midi', name: file.name })
  document.refusal = ''
  if (why) messages.add({ severity: 'warn', summary: 'Not imported', detail: `${file.name}: ${why}`, life: 8000 })
  else if (document.said) messages.add({ severity: 'info', summary: 'Imported in part', detail: `${file.name}: ${document.said}`, life: 12_000 })
  chosen.value = ''
}
function exports() {
  const file = document.file({ ask: 'export_midi' })
  if (file) download(file.bytes, file.name, 'audio/midi')
}
async function record() {
  if (!playing.recording) {
    playing.record()
    return
  }
  const events = await playing.recorded()
  const why = document.alter({ ask: 'recorded', events, grid_beats: settings.gridBeats })
  document.refusal = ''
  if (why) messages.add({ severity: 'info', summary: 'Nothing recorded', detail: why, life: 4000 })
  const played = events.filter(([, [status, , velocity]]) => (status & 0xf0) === 0x90 && velocity > 0).length
  const kept = phrase.value?.notes.length ?? 0
  if (!why && kept < played) messages.add({ severity: 'warn', summary: 'Recorded in part', detail: `The first ${kept} of ${played} notes are kept: a phrase holds no more.`, life: 8000 })
}
const setBars = (text: string) => document.tried({ ask: 'type_bars', text })
</script>

<template>
  <section class="phrase" aria-label="Phrase" data-testid="phrase">
    <header>
      <h2>Phrase</h2>
      <PhrasePicker ref="picker" />
      <template v-if="phrase">
        <NameField class="name" :name="phrase.name" label="Phrase name" @rename="document.edit({ do: 'rename_phrase', name: $event })" />
        <span class="small">Bars <TypedText class="num" :shown="String(bars)" name="Bars of the phrase" :take="setBars" /></span>
        <ValueField v-if="document.value('playing.swing')" :value="document.value('playing.swing')!" inline />
        <label class="small">Grid
          <select v-model.number="settings.gridBeats" aria-label="Grid of the phrase"><option v-for="[beats, words] in GRIDS" :key="words" :value="beats">{{ words }}</option></select>
        </label>
      </template>
      <span class="spacer" />
      <button type="button" class="btn" :class="{ on: playing.recording }" :aria-pressed="playing.recording" title="Records what you play, as it is heard; the arpeggio too" @click="record"><i class="pi" :class="playing.recording ? 'pi-stop' : 'pi-circle-fill'" /> {{ playing.recording ? 'Stop recording' : 'Record' }}</button>
      <button type="button" class="btn" title="A Standard MIDI File" @click="input?.click()">Import MIDI</button>
      <template v-if="phrase">
        <button type="button" class="btn" title="As a Standard MIDI File" @click="exports">Export MIDI</button>
        <button type="button" class="btn" title="Keeps it for all patches" @click="picker?.keep()">Keep</button>
      </template>
      <input ref="input" type="file" accept=".mid,.midi" hidden data-testid="midi-file" @change="imports" />
    </header>
    <div v-if="phrase" class="body" :style="{ gridTemplateColumns: `var(--side) ${axis.widthPx}px var(--scale)` }">
      <div class="left">
        <div class="beatrow"><label v-if="beat" class="small">Beat
          <select :value="beat.at" aria-label="Beat" :title="beat.help" @change="document.edit({ do: 'choose', units: [], choice: 'playing.beat', at: Number(($event.target as HTMLSelectElement).value) })"><option v-for="(name, at) in beat.options" :key="name" :value="at">{{ name }}</option></select>
        </label><ValueField v-if="document.value('playing.beat_db')" :value="document.value('playing.beat_db')!" inline /></div>
        <template v-if="one">
          <p class="which"><b>{{ selected.length === 1 ? `Note ${selected[0] + 1} of ${phrase.notes.length}` : `${selected.length} notes` }}</b> <span v-if="one.slid" class="muted">glide</span></p>
          <div class="fields">
            <NoteField label="Pitch" field="pitch" :shown="one.name" :notes="selected" /><NoteField label="Starts" field="starts" :shown="one.place" :notes="selected" />
            <NoteField label="Length" field="length" :shown="`${one.length} beat`" :notes="selected" /><NoteField label="Velocity" field="velocity" :shown="String(one.velocity)" :notes="selected" />
          </div>
        </template>
        <p v-else class="muted hint">Click a note to choose it, double click to add one; drag it, or its end. {{ phrase.notes.length }} notes.</p>
        <span class="lane vel">Velocity <span class="muted">open ring: glide</span></span><span class="lane wheel">Wheel</span><span class="lane bend">Bend</span>
      </div>
      <PhraseGrid :phrase="phrase" :axis="axis" :cursor-x="cursorX" :root="view.audition.key" :tempo="document.value('audition.tempo_bpm')?.value ?? 120" :selected="selected" @select="selected = $event" />
      <div class="scale"><span class="root">root</span></div>
    </div>
    <p v-else class="none">A patch is judged while it is played: choose a phrase, record one, or import a MIDI file. It is kept with the patch.</p>
  </section>
</template>

<style scoped>
.phrase { background: var(--sheet); border-top: 1px solid var(--rule); min-height: 0; overflow: hidden; }
header { display: flex; align-items: center; gap: 8px; height: 32px; padding: 0 8px; background: var(--paper); border-bottom: 1px solid var(--hair-2); white-space: nowrap; overflow-x: auto; scrollbar-width: none; }
header > * { flex: none; }
header > .spacer { flex: 1; }
.name { font-weight: 600; max-width: 12em; }
h2 { font-size: var(--fs-13); }
.small { display: flex; align-items: center; gap: 4px; color: var(--ink-2); }
.num { width: 44px; height: var(--hit); border: 1px solid var(--hair-2); border-radius: var(--r); background: var(--sheet); padding: 0 4px; font-weight: 600; }
select { height: var(--hit); border: 1px solid var(--hair-2); border-radius: var(--r); background: var(--sheet); }
.body { display: grid; }
.left { position: relative; padding: 0 8px; min-width: 0; }
.beatrow { display: flex; gap: 6px; align-items: center; height: 26px; }
.which { margin: 4px 0 3px; }
.fields { display: grid; grid-template-columns: repeat(4, 1fr); gap: 5px; }
.hint { margin: 10px 0; white-space: normal; }
.lane { position: absolute; left: 8px; font-weight: 600; }
.lane .muted { font-weight: 400; font-size: var(--fs-11); }
.vel { top: 138px; } .wheel { top: 167px; } .bend { top: 189px; }
.scale { position: relative; font-size: var(--fs-11); color: var(--ink-3); }
.scale .root { display: none; }
.none { padding: 12px; color: var(--ink-2); }
</style>
