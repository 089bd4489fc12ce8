<script setup lang="ts">
/** The foot of every view: bend, wheel, keyboard, eight macros; what one of them moves; all else that plays in a panel. */
import { computed, ref, watch } from 'vue'
import { useRoute } from 'vue-router'

import Popover from '../OwnPopover.vue'
import ControllerPanel from './ControllerPanel.vue'
import MacroCell from './MacroCell.vue'
import MacroEditor from './MacroEditor.vue'
import WheelStrip from './WheelStrip.vue'
import ValueField from '../field/ValueField.vue'
import PianoKeys from '../keys/PianoKeys.vue'
import OwnWindow from '../OwnWindow.vue'
import ToggleSwitch from '../ToggleSwitch.vue'
import { isOfPatch } from '../../composables/screen/isOfPatch'
import { useControllerPanel } from '../../composables/keys/useControllerPanel'
import { useComputerKeys } from '../../composables/keys/useComputerKeys'
import { useMidi } from '../../composables/keys/useMidi'
import { useControllers } from '../../stores/controllers'
import { useDocument } from '../../stores/document'
import { useMessages } from '../../stores/messages'
import { usePlaying, type Message, SCREEN, WHEELS } from '../../stores/playing'
import { useSettings } from '../../stores/settings'

const document = useDocument()
const playing = usePlaying()
const settings = useSettings()
const controllers = useControllers()
const messages = useMessages()
const route = useRoute()
const midi = useMidi()
const marked = computed(() => document.view?.audition.key)
const keys = useComputerKeys({ velocity: () => document.view?.audition.velocity ?? 96 })
/** Keys that switch articulations show whose they are. */
const articulations = computed(() => document.view?.articulations)
const switching = computed(() => new Map(articulations.value?.flatMap(({ key, name }) => (key === null ? [] : [[key, name] as const])) ?? []))

const sim = (message: Message) => playing.receive(WHEELS, message)
/** The bend springs back when it is let go; the wheel stays where it is put. */
const bend = ref(0)
function turn(place: number) {
  bend.value = place
  const bits = place + 8192
  sim([0xe0, bits & 127, bits >> 7])
}
const wheel = ref(0)
function turnWheel(place: number) {
  wheel.value = place
  sim([0xb0, 1, place])
}
/** Let go of, the wheel stands there for the auditioned note too: it is drawn and rendered so. */
function leaveWheel() {
  if (document.view && isOfPatch(route.name)) document.editOne({ do: 'set_value', address: { param: 'audition.wheel', id: 0, point: 0 }, value: wheel.value })
}

const inPatch = computed(() => isOfPatch(route.name) && document.view !== undefined)
const MOST = 8
const macros = computed(() => (inPatch.value ? (document.view?.macros ?? []) : []))
const chosen = ref<number | null>(null)
const slot = computed(() => macros.value.findIndex(({ source }) => source === chosen.value))
const current = computed(() => (slot.value < 0 ? undefined : macros.value[slot.value]))
function add() {
  const before = document.source
  document.edit({ do: 'add_source', kind: 'macro', to: [] })
  chosen.value = macros.value.at(-1)?.source ?? null
  // in Move what was selected stays so: a macro has its place down here
  document.source = before
}
const panel = ref<InstanceType<typeof Popover>>()
/** The controllers in a window of their own, beside this one. */
const own = ref(false)
function takeOut() {
  panel.value?.hide()
  own.value = true
}
function refused() {
  own.value = false
  messages.add({ severity: 'warn', summary: 'No window', detail: 'The browser does not let this page open one; allow it in the address bar.', life: 6000 })
}
// a value that stands in the panel was looked for
const opener = ref<HTMLElement>()
watch(useControllerPanel(), () => !own.value && opener.value && panel.value?.show(new Event('asked'), opener.value))
/** Where they are out already, they come back. */
const openPanel = (event: Event) => (own.value ? (own.value = false) : panel.value?.toggle(event))
const octave = (key: number) => Math.floor(key / 12) - 1
</script>

<template>
  <footer v-if="!settings.keysOpen" class="bottom folded">
    <button type="button" class="btn" aria-expanded="false" title="Open the keyboard" @click="settings.keysOpen = true">Keyboard <i class="pi pi-angle-up" /></button>
    <button ref="opener" type="button" class="btn" aria-haspopup="true" title="Computer keys, MIDI, the simulated controller" @click="openPanel">Controllers</button>
    <span class="muted">Z to M play from C{{ octave(keys.base.value) }}</span>
    <ToggleSwitch :on="playing.pedal" label="Pedal" @switch="sim([0xb0, 64, $event ? 127 : 0])" />
    <label class="flat">Bend <input :value="bend" type="range" min="-8192" max="8191" aria-label="Bend wheel" @input="turn(Number(($event.target as HTMLInputElement).value))" @change="turn(0)" /></label>
    <label class="flat">Wheel <input :value="wheel" type="range" min="0" max="127" aria-label="Modulation wheel" @input="turnWheel(Number(($event.target as HTMLInputElement).value))" @change="leaveWheel" /></label>
    <ValueField v-for="knob in macros" :key="knob.source" :value="knob.value" inline />
  </footer>
  <footer v-else class="bottom" :class="{ editing: current }">
    <div class="wheels">
      <WheelStrip name="Bend" label="Bend wheel" :value="bend" :min="-8192" :max="8191" @turn="turn" @let="turn(0)" />
      <WheelStrip name="Wheel" label="Modulation wheel" :value="wheel" :min="0" :max="127" @turn="turnWheel" @let="leaveWheel" />
    </div>
    <div class="board">
      <PianoKeys :from="36" :to="current ? 72 : 84" :held="playing.heldKeys" :marked="marked" :switching="switching" label="Keyboard" names @press="(key, velocity) => playing.press(SCREEN, key, velocity)" @release="(key) => playing.release(SCREEN, key)" />
    </div>
    <div v-if="inPatch" class="macros" role="group" aria-label="Macros">
      <template v-for="n in MOST" :key="n">
        <MacroCell v-if="macros[n - 1]" :knob="macros[n - 1]" :chosen="chosen === macros[n - 1].source" :learnt="controllers.wordsOf(n - 1)" @choose="chosen = macros[n - 1].source" />
        <button v-else-if="n === macros.length + 1" type="button" class="btn empty" title="A knob that moves several values, each by its own way" @click="add">+ Macro</button>
        <span v-else class="hollow" />
      </template>
    </div>
    <MacroEditor v-if="current" :knob="current" :which="slot" @close="chosen = null" />
    <div class="side">
      <button ref="opener" type="button" class="btn" aria-haspopup="true" title="Computer keys, MIDI, the simulated controller" @click="openPanel">Controllers</button>
      <ToggleSwitch :on="playing.pedal" label="Pedal" @switch="sim([0xb0, 64, $event ? 127 : 0])" />
      <button type="button" class="icon-btn" aria-label="Fold the keyboard" aria-expanded="true" title="Fold the keyboard to one line" @click="settings.keysOpen = false"><i class="pi pi-angle-down" /></button>
    </div>
  </footer>
  <Popover ref="panel" :dismissable="false" :pt="{ root: { 'aria-label': 'Controllers' } }"><ControllerPanel :keys="keys" :midi="midi" @close="panel?.hide()" @own="takeOut" /></Popover>
  <OwnWindow v-if="own" title="Controllers" :width-px="500" :height-px="430" @close="own = false" @refused="refused" @lost="playing.lost"><ControllerPanel :keys="keys" :midi="midi" alone @close="own = false" /></OwnWindow>
</template>

<style scoped>
.bottom { contain: layout size; height: var(--bottom); background: var(--paper); border-top: 1px solid var(--rule); display: flex; gap: 10px; padding: 7px 12px; min-width: 0; }
.bottom.folded { height: var(--foot); align-items: center; gap: 14px; padding: 0 12px; white-space: nowrap; overflow: hidden; }
.flat { display: flex; align-items: center; gap: 6px; }
.flat input { width: 80px; accent-color: var(--ink); }
.wheels { display: flex; gap: 6px; flex: none; }
.board { flex: 1 1 240px; min-width: 160px; }
.macros { flex: 1 1 420px; min-width: 330px; max-width: 620px; display: grid; grid-template-columns: repeat(4, minmax(0, 1fr)); grid-template-rows: 1fr 1fr; gap: 4px; }
.editing .board { flex: 1 1 180px; }
.editing .macros { flex: 0 1 380px; }
.editing :deep(.editor) { flex: 2 1 420px; }
.empty { height: auto; border-style: dashed; justify-content: center; color: var(--ink-2); }
.hollow { border: 1px dashed var(--hair); border-radius: var(--r); }
.side { flex: none; display: flex; flex-direction: column; align-items: flex-start; justify-content: space-between; }
@media (max-width: 1100px) { .macros { min-width: 280px; } .editing .board { display: none; } }
@media (max-width: 760px), (max-height: 560px) {
  .bottom, .bottom.folded { contain: none; height: auto; flex-wrap: wrap; row-gap: 6px; padding: 7px 8px; white-space: normal; overflow: visible; }
  .wheels { height: 84px; }
  .macros { min-width: 0; flex: 1 1 260px; grid-template-columns: repeat(2, minmax(0, 1fr)); grid-template-rows: none; grid-auto-rows: minmax(38px, auto); }
  .side { flex-direction: row; gap: 8px; }
}
@media (max-width: 900px) { .board { display: none; } }
</style>
