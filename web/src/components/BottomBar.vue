<script setup lang="ts">
/** Playing: the screen's keyboard, the computer's, and MIDI, a simulated keyboard included. */
import { computed, onScopeDispose, ref } from 'vue'

import PianoKeys from './keys/PianoKeys.vue'
import ToggleSwitch from './ToggleSwitch.vue'
import { useComputerKeys } from '../composables/useComputerKeys'
import { useMidi } from '../composables/useMidi'
import { useDocument } from '../stores/document'
import { usePlaying, type Message } from '../stores/playing'
import { useSettings } from '../stores/settings'

const document = useDocument()
const playing = usePlaying()
const settings = useSettings()
const midi = useMidi()
const marked = computed(() => document.view?.audition.key)
const keys = useComputerKeys({ velocity: () => document.view?.audition.velocity ?? 96 })

// the simulated keyboard: a separate device that sends MIDI bytes like a real one
const simVelocity = ref(90)
const simBase = ref(48)
const phrase = ref(false)
let timers: number[] = []
const sim = (message: Message) => playing.receive(message)
/** The wheel springs back when it is let go. */
const bend = ref(0)
function turn(place: number) {
  bend.value = place
  const bits = place + 8192
  sim([0xe0, bits & 127, bits >> 7])
}

/** The modulation wheel stays where it is put. */
const wheel = ref(0)
function turnWheel(place: number) {
  wheel.value = place
  sim([0xb0, 1, place])
}

/** Pressure is gone when the hand is. */
const pressure = ref(0)
function press(place: number) {
  pressure.value = place
  sim([0xd0, place, 0])
}

function playPhrase() {
  const answer = document.ask({ ask: 'phrase' })
  if (answer.is !== 'phrase') return
  void playing.start().then(() => {
    phrase.value = true
    for (const { time_s, message } of answer.messages) timers.push(window.setTimeout(() => sim(message as Message), time_s * 1000))
    const end = Math.max(...answer.messages.map((timed) => timed.time_s))
    timers.push(window.setTimeout(stopPhrase, end * 1000 + 50))
  })
}
function stopPhrase() {
  timers.forEach((timer) => window.clearTimeout(timer))
  if (phrase.value) playing.releaseAll()
  timers = []
  phrase.value = false
}
onScopeDispose(stopPhrase)
const octave = (key: number) => Math.floor(key / 12) - 1
</script>

<template>
  <footer v-if="!settings.keysOpen" class="bottom folded">
    <button type="button" class="btn" aria-expanded="false" title="Open the keyboard" @click="settings.keysOpen = true">Keyboard <i class="pi pi-angle-up" /></button>
    <span class="muted">Z to M play from C{{ octave(keys.base.value) }}</span>
    <ToggleSwitch :on="playing.pedal" label="Pedal" @switch="sim([0xb0, 64, $event ? 127 : 0])" />
    <label class="bend">Bend <input :value="bend" type="range" min="-8192" max="8191" aria-label="Bend wheel" @input="turn(Number(($event.target as HTMLInputElement).value))" @change="turn(0)" /></label>
    <label class="bend">Wheel <input :value="wheel" type="range" min="0" max="127" aria-label="Modulation wheel" @input="turnWheel(Number(($event.target as HTMLInputElement).value))" /></label>
    <button type="button" class="btn" :class="{ on: phrase }" @click="phrase ? stopPhrase() : playPhrase()">{{ phrase ? 'Stop' : 'Play phrase' }}</button>
    <span class="muted clip" :title="midi.status.value">MIDI {{ midi.status.value }}</span>
  </footer>
  <footer v-else class="bottom">
    <div class="board">
      <PianoKeys :from="36" :to="84" :held="playing.heldKeys" :marked="marked" label="Keyboard" names @press="playing.press" @release="playing.release" />
    </div>
    <section class="panel" aria-label="Computer keyboard">
      <h2>Computer keys</h2>
      <p class="muted">Z to M, Q to I play<br />from C{{ octave(keys.base.value) }}</p>
      <div class="line">
        <button type="button" class="btn" aria-label="Octave down" title="Octave down (−)" @click="keys.shiftOctave(-1)">−</button>
        <button type="button" class="btn" aria-label="Octave up" title="Octave up (=)" @click="keys.shiftOctave(1)">+</button>
        <span class="spacer" />
        <button type="button" class="icon-btn" aria-label="Fold the keyboard" aria-expanded="true" title="Fold the keyboard to one line" @click="settings.keysOpen = false"><i class="pi pi-angle-down" /></button>
      </div>
    </section>
    <section class="panel" aria-label="MIDI">
      <h2>MIDI</h2>
      <p class="muted clip" :title="midi.status.value">{{ midi.status.value }}</p>
      <button v-if="midi.available" type="button" class="btn" @click="midi.connect">Connect</button>
    </section>
    <section class="panel sim" aria-label="Simulated MIDI keyboard">
      <div class="line">
        <h2>Simulated MIDI keyboard</h2>
        <span class="spacer" />
        <ToggleSwitch :on="playing.pedal" label="Pedal" @switch="sim([0xb0, 64, $event ? 127 : 0])" />
        <button type="button" class="btn" :class="{ on: phrase }" @click="phrase ? stopPhrase() : playPhrase()">{{ phrase ? 'Stop' : 'Play phrase' }}</button>
      </div>
      <div class="device">
        <div class="controls">
          <label>Vel <input v-model.number="simVelocity" type="range" min="1" max="127" aria-label="Velocity of the simulated keyboard" /> </label>
          <label>Bend <input :value="bend" type="range" min="-8192" max="8191" aria-label="Bend wheel of the simulated keyboard" @input="turn(Number(($event.target as HTMLInputElement).value))" @change="turn(0)" /></label>
          <label>Wheel <input :value="wheel" type="range" min="0" max="127" aria-label="Modulation wheel of the simulated keyboard" @input="turnWheel(Number(($event.target as HTMLInputElement).value))" /></label>
          <label>Press <input :value="pressure" type="range" min="0" max="127" aria-label="Pressure of the simulated keyboard" @input="press(Number(($event.target as HTMLInputElement).value))" @change="press(0)" /></label>
        </div>
        <div class="small"><PianoKeys :from="simBase" :to="simBase + 24" :held="playing.heldKeys" label="Simulated MIDI keys" @press="(key) => sim([0x90, key, simVelocity])" @release="(key) => sim([0x80, key, 0])" /></div>
      </div>
    </section>
  </footer>
</template>

<style scoped>
.bottom { height: var(--bottom); background: var(--paper); border-top: 1px solid var(--rule); display: grid; grid-template-columns: minmax(0, 1fr) 120px 120px 360px; gap: 12px; padding: 8px 12px; }
.bottom.folded { height: var(--foot); display: flex; align-items: center; gap: 14px; padding: 0 12px; white-space: nowrap; overflow: hidden; }
.folded .btn { align-self: center; }
.bend { display: flex; align-items: center; gap: 6px; }
.bend input { width: 90px; accent-color: var(--ink); }
.board { min-width: 0; }
.panel { display: flex; flex-direction: column; gap: 2px; border-left: 1px solid var(--hair-2); padding-left: 10px; min-width: 0; }
h2 { margin: 0; font-size: var(--fs-12); }
p { margin: 0; font-size: var(--fs-11); }
.clip { overflow: hidden; text-overflow: ellipsis; white-space: nowrap; }
.line { display: flex; align-items: center; gap: 4px; }
.btn { align-self: flex-start; padding: 0 8px; }
.device { display: grid; grid-template-columns: 182px 1fr; gap: 8px; flex: 1; min-height: 0; }
.controls { display: grid; grid-template-columns: 1fr 1fr; align-content: center; gap: 2px 8px; }
.controls label { display: flex; align-items: center; gap: 4px; min-height: 24px; justify-content: space-between; font-size: var(--fs-11); }
.controls input { width: 50px; accent-color: var(--ink); }
.small { min-height: 0; }
</style>
