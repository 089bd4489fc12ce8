<script setup lang="ts">
/** Everything notes and gestures come from: computer keys, MIDI, and a simulated controller that plays hands-free. */
import { computed, onScopeDispose, ref } from 'vue'

import PianoKeys from '../keys/PianoKeys.vue'
import ToggleSwitch from '../ToggleSwitch.vue'
import ValueField from '../field/ValueField.vue'
import type { UseComputerKeysReturn } from '../../composables/keys/useComputerKeys'
import type { UseMidiReturn } from '../../composables/keys/useMidi'
import type { Gesture } from '../../engine/generated/Gesture'
import { useControllers } from '../../stores/controllers'
import { useDocument } from '../../stores/document'
import { usePlaying, type Message, SIMULATED, WHEELS } from '../../stores/playing'
import { useSettings } from '../../stores/settings'

defineEmits<{ close: []; own: [] }>()
const props = defineProps<{ keys: UseComputerKeysReturn; midi: UseMidiReturn; alone?: boolean }>()
const document = useDocument()
const playing = usePlaying()
const controllers = useControllers()
const settings = useSettings()
const GESTURES: [Gesture, string][] = [['wheel', 'Wheel sweep'], ['pressure', 'Pressure'], ['expression', 'Expression'], ['knob', 'Knob (CC 21)'], ['ladder', 'Soft to hard']]
const TOUCHES = [['heavy', 'A keyboard that is hard to strike: velocities are lifted'], ['even', 'Velocities as they come'], ['light', 'A keyboard that is easy to strike: velocities are lowered']] as const
/** A clock that is simulated too: a beat of ticks at this tempo. */
const CLOCK_BPM = 100
const clocked = ref(false)
let clock = 0
function turnClock() {
  clocked.value = !clocked.value
  window.clearInterval(clock)
  if (!clocked.value) {
    props.midi.take(WHEELS, [0xfc], performance.now())
    return
  }
  props.midi.take(WHEELS, [0xfa], performance.now())
  // ticks say when they were sent, so that a late timer does not bend the tempo
  let sent = performance.now()
  const apart = 60_000 / CLOCK_BPM / 24
  clock = window.setInterval(() => {
    for (const now = performance.now(); sent + apart <= now; ) props.midi.take(WHEELS, [0xf8], (sent += apart))
  }, 10)
}
onScopeDispose(() => window.clearInterval(clock))
/** How the auditioned note is played beside its key: it is drawn and rendered so. */
const AUDITIONED = ['audition.wheel', 'audition.pressure', 'audition.bend', 'audition.expression', 'audition.pedal', 'audition.timbre', 'audition.lift'] as const
const auditioned = computed(() => AUDITIONED.flatMap((param) => document.value(param) ?? []))
const velocity = ref(90)
const base = ref(48)
const knob = ref(0)
const slider = ref({ bend: 0, wheel: 0, pressure: 0, expression: 127, pedal: 0 })
/** Keys come up when the window loses the hand; wheels and pedals stay. */
const isKey = ([status]: Message) => (status & 0xe0) === 0x80
const sim = (message: Message) => playing.receive(isKey(message) ? SIMULATED : WHEELS, message)
function turn(place: number) {
  slider.value.bend = place
  const bits = place + 8192
  sim([0xe0, bits & 127, bits >> 7])
}
const CONTROLLERS = { wheel: 1, expression: 11, pedal: 64 }
function send(name: 'wheel' | 'pressure' | 'expression' | 'pedal', place: number) {
  slider.value[name] = place
  sim(name === 'pressure' ? [0xd0, place, 0] : [0xb0, CONTROLLERS[name], place])
}
const number = (event: Event) => Number((event.target as HTMLInputElement).value)
const doing = ref<Gesture>()
let timers: number[] = []
/** Plays a gesture as a player would, message after message. */
function play(what: Gesture) {
  stop()
  const answer = document.ask({ ask: 'gesture', what })
  if (answer.is !== 'gesture') return
  void playing.start().then(() => {
    doing.value = what
    for (const { time_s, message } of answer.messages) timers.push(window.setTimeout(() => sim(message as Message), time_s * 1000))
    const end = Math.max(...answer.messages.map((timed) => timed.time_s))
    timers.push(window.setTimeout(stop, end * 1000 + 50))
  })
}
function stop() {
  timers.forEach((timer) => window.clearTimeout(timer))
  timers = []
  if (doing.value) playing.releaseAll()
  doing.value = undefined
}
onScopeDispose(stop)
const octave = (key: number) => Math.floor(key / 12) - 1
</script>

<template>
  <div class="panel" :class="{ alone }" data-testid="controllers" data-played>
    <section aria-label="Computer keyboard">
      <h2>Computer keys</h2>
      <span class="muted">Z to M and Q to I play from C{{ octave(props.keys.base.value) }}</span><span class="spacer" />
      <button type="button" class="btn" aria-label="Octave down" title="Octave down (−)" @click="props.keys.shiftOctave(-1)">−</button>
      <button type="button" class="btn" aria-label="Octave up" title="Octave up (=)" @click="props.keys.shiftOctave(1)">+</button>
      <button v-if="!alone" type="button" class="icon-btn" aria-label="In a window of their own" title="In a small window of their own, beside this one" @click="$emit('own')"><i class="pi pi-external-link" /></button>
      <button v-if="!alone" type="button" class="icon-btn" aria-label="Close the controllers" title="Close (Escape)" @click="$emit('close')"><i class="pi pi-times" /></button>
    </section>
    <section aria-label="MIDI">
      <h2>MIDI</h2>
      <span class="muted clip" :title="props.midi.status.value">{{ props.midi.status.value }}</span><span class="spacer" />
      <span class="seg" role="group" aria-label="Touch of the keyboard">
        <button v-for="[touch, words] in TOUCHES" :key="touch" type="button" :aria-pressed="settings.touch === touch" :title="words" @click="settings.touch = touch">{{ touch }}</button>
      </span>
      <button v-if="props.midi.available" type="button" class="btn" @click="props.midi.connect">Connect</button>
    </section>
    <section v-if="auditioned.length" aria-label="The auditioned note">
      <h2>Auditioned note</h2><span class="muted">is drawn and rendered with</span>
      <div class="beside"><ValueField v-for="value in auditioned" :key="value.address.param" :value="value" /></div>
    </section>
    <section v-if="controllers.learnt.length" aria-label="Learnt controllers">
      <h2>Learnt</h2>
      <span v-for="known in controllers.learnt" :key="known.controller" class="learnt">CC {{ known.controller }} moves {{ typeof known.moves === 'number' ? `macro ${known.moves + 1}` : known.moves.param }}
        <button type="button" class="icon-btn" :aria-label="`Forget CC ${known.controller}`" title="Forget" @click="controllers.forget(known.moves)"><i class="pi pi-times" /></button></span>
    </section>
    <section class="sim" aria-label="Simulated MIDI keyboard">
      <h2>Simulated controller</h2>
      <span class="muted">sends MIDI like a real one</span><span class="spacer" />
      <ToggleSwitch :on="playing.pedal" label="Pedal" @switch="sim([0xb0, 64, $event ? 127 : 0])" />
      <div class="gestures">
        <button type="button" class="btn" :class="{ on: doing === 'phrase' }" @click="doing === 'phrase' ? stop() : play('phrase')">{{ doing === 'phrase' ? 'Stop' : 'Play phrase' }}</button>
        <button type="button" class="btn" :class="{ on: clocked }" :aria-pressed="clocked" title="Sends a MIDI clock: tempo and start follow" @click="turnClock">Clock {{ CLOCK_BPM }}</button>
        <button v-for="[what, words] in GESTURES" :key="what" type="button" class="btn" :class="{ on: doing === what }" @click="doing === what ? stop() : play(what)">{{ doing === what ? 'Stop' : words }}</button>
      </div>
      <div class="controls">
        <label>Velocity <input v-model.number="velocity" type="range" min="1" max="127" aria-label="Velocity of the simulated keyboard" /></label>
        <label>Bend <input :value="slider.bend" type="range" min="-8192" max="8191" aria-label="Bend wheel of the simulated keyboard" @input="turn(number($event))" @change="turn(0)" /></label>
        <label>Wheel <input :value="slider.wheel" type="range" min="0" max="127" aria-label="Modulation wheel of the simulated keyboard" @input="send('wheel', number($event))" /></label>
        <label>Pressure <input :value="slider.pressure" type="range" min="0" max="127" aria-label="Pressure of the simulated keyboard" @input="send('pressure', number($event))" @change="send('pressure', 0)" /></label>
        <label>Expression <input :value="slider.expression" type="range" min="0" max="127" aria-label="Expression of the simulated keyboard" @input="send('expression', number($event))" /></label>
        <label title="Half down, notes end more slowly; from the middle on they are held">Half pedal <input :value="slider.pedal" type="range" min="0" max="127" aria-label="Pedal of the simulated keyboard, by degrees" @input="send('pedal', number($event))" /></label>
        <label>Knob <input v-model.number="knob" type="range" min="0" max="127" aria-label="Knob of the simulated keyboard" @input="sim([0xb0, 21, number($event)])" /></label>
      </div>
      <div class="small"><PianoKeys :from="base" :to="base + 36" :held="playing.heldKeys" label="Simulated MIDI keys" @press="(key) => sim([0x90, key, velocity])" @release="(key) => sim([0x80, key, 0])" /></div>
    </section>
  </div>
</template>

<style scoped>
.panel { width: 460px; }
.panel.alone { width: auto; padding: 10px 14px; }
section { display: flex; align-items: center; gap: 8px; padding: 4px 0; border-bottom: 1px solid var(--hair); flex-wrap: wrap; }
h2 { font-size: var(--fs-12); }
.clip { overflow: hidden; text-overflow: ellipsis; white-space: nowrap; max-width: 240px; }
.gestures { display: flex; flex-wrap: wrap; gap: 4px; width: 100%; }
.controls { display: grid; grid-template-columns: repeat(3, 1fr); gap: 2px 12px; width: 100%; }
.controls label { display: flex; align-items: center; justify-content: space-between; gap: 4px; min-height: 24px; font-size: var(--fs-11); }
.controls input { width: 76px; accent-color: var(--ink); }
.beside { display: grid; grid-template-columns: repeat(4, minmax(0, 1fr)); gap: 2px 10px; width: 100%; }
.small { width: 100%; height: 64px; }
.learnt { display: inline-flex; align-items: center; }
</style>
