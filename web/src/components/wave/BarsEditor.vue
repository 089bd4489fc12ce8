<script setup lang="ts">
/** A wave as 64 bars: draw amplitudes with the pointer over many bars at once, phases below; keys work on the chosen bar. */
import { computed, ref } from 'vue'

import CycleLine from './CycleLine.vue'
import TypedText from '../field/TypedText.vue'
import { useGesture } from '../../composables/hand/useGesture'
import type { WaveView } from '../../engine/generated/WaveView'
import { useDocument } from '../../stores/document'

const props = defineProps<{ unit: number; wave: WaveView; label: string; ownBars: boolean }>()
const document = useDocument()
const wave = computed(() => document.underHand('wave', props.unit)?.wave ?? props.wave)
const BARS = document.rules?.bars ?? 64
const BAR_PX = 11
const HEIGHT = 150
const PHASE_HEIGHT = 54
const chosen = ref(1)
type Part = 'amplitude' | 'phase'

const amplitude = (n: number) => wave.value.amplitudes[n - 1] ?? 0
const phase = (n: number) => wave.value.phases_turns[n - 1] ?? 0

function draw(part: Part, harmonic: number, value: number, gesture: number | null) {
  const share = Math.max(0, Math.min(1, value))
  document.byHand({ of: 'wave', unit: props.unit }, {
    ask: 'draw_bar', unit: props.unit, harmonic, gesture,
    amplitude: part === 'amplitude' ? Math.round(share * 1000) / 1000 : null,
    phase_turns: part === 'phase' ? Math.round(share * 360) / 360 : null,
  })
}

const { take } = useGesture<{ part: Part; last: number; box: DOMRect }>({
  slackPx: 0,
  move({ what: hand, gesture }, event) {
    const at = Math.max(1, Math.min(BARS, Math.floor((event.clientX - hand.box.left) / BAR_PX) + 1))
    const value = 1 - (event.clientY - hand.box.top) / hand.box.height
    chosen.value = at
    // a quick hand leaves no bar out
    const from = hand.last === 0 ? at : hand.last
    for (let n = Math.min(from, at); n <= Math.max(from, at); n++) if (n !== from || n === at) draw(hand.part, n, value, gesture)
    hand.last = at
  },
})
function down(event: PointerEvent, part: Part) {
  if (event.currentTarget instanceof Element) take(event, { part, last: 0, box: event.currentTarget.getBoundingClientRect() })
}

function key(event: KeyboardEvent, part: Part) {
  const step = event.shiftKey ? 0.01 : 0.05
  const now = part === 'amplitude' ? amplitude(chosen.value) : phase(chosen.value)
  if (event.key === 'ArrowLeft') chosen.value = Math.max(1, chosen.value - 1)
  else if (event.key === 'ArrowRight') chosen.value = Math.min(BARS, chosen.value + 1)
  else if (event.key === 'ArrowUp') draw(part, chosen.value, now + step, null)
  else if (event.key === 'ArrowDown') draw(part, chosen.value, now - step, null)
  else if (event.key === 'Delete' || event.key === 'Backspace') draw(part, chosen.value, 0, null)
  else return
  event.preventDefault()
  event.stopPropagation()
}

const typedAmplitude = computed(() => (amplitude(chosen.value) * 100).toFixed(1).replace('.0', ''))
const typedPhase = computed(() => (phase(chosen.value) * 360).toFixed(0))
const typed = (part: Part) => (text: string) => document.tried({ ask: 'type_bar', unit: props.unit, harmonic: chosen.value, part, text })
</script>

<template>
  <div class="editor" data-played>
    <div class="head">
      <CycleLine :cycle="wave.cycle" :width="220" :height="84" :stroke="2" />
      <div class="words">
        <p v-if="ownBars">Own bars: {{ BARS }} harmonics. Draw over them; the note follows.</p>
        <p v-else>Bars of <b>{{ label }}</b> as it is now. Draw on them and they become the operator's own; undo brings the wave back.</p>
        <div class="chosen">
          <b>Harmonic {{ chosen }}</b>
          <span>Amplitude</span><TypedText :shown="`${typedAmplitude}%`" name="Amplitude in percent" :take="typed('amplitude')" />
          <span>Phase</span><TypedText :shown="`${typedPhase}°`" name="Phase in degrees" :take="typed('phase')" />
        </div>
      </div>
    </div>
    <svg
      class="bars" :width="BARS * BAR_PX" :height="HEIGHT" tabindex="0" role="slider" aria-label="Amplitudes of the harmonics" :aria-valuenow="amplitude(chosen)"
      :aria-valuetext="`Harmonic ${chosen}: ${typedAmplitude} percent`" @pointerdown="down($event, 'amplitude')" @keydown="key($event, 'amplitude')"
    >
      <path v-for="share in [0.25, 0.5, 0.75]" :key="share" :d="`M0 ${HEIGHT * share}H${BARS * BAR_PX}`" class="grid" />
      <rect :x="(chosen - 1) * BAR_PX" y="0" :width="BAR_PX" :height="HEIGHT" class="chosen-bar" />
      <rect v-for="n in BARS" :key="n" :x="(n - 1) * BAR_PX + 1.5" :y="HEIGHT * (1 - amplitude(n))" :width="BAR_PX - 3" :height="Math.max(amplitude(n) > 0 ? 1 : 0, HEIGHT * amplitude(n))" class="bar" />
    </svg>
    <svg class="numbers" :width="BARS * BAR_PX" height="14" aria-hidden="true">
      <text v-for="n in [1, 8, 16, 24, 32, 40, 48, 56, 64]" :key="n" :x="(n - 0.5) * BAR_PX" y="11" text-anchor="middle">{{ n }}</text>
    </svg>
    <svg
      class="bars" :width="BARS * BAR_PX" :height="PHASE_HEIGHT" tabindex="0" role="slider" aria-label="Phases of the harmonics" :aria-valuenow="phase(chosen)"
      :aria-valuetext="`Harmonic ${chosen}: ${typedPhase} degrees`" @pointerdown="down($event, 'phase')" @keydown="key($event, 'phase')"
    >
      <path :d="`M0 ${PHASE_HEIGHT / 2}H${BARS * BAR_PX}`" class="grid" />
      <rect :x="(chosen - 1) * BAR_PX" y="0" :width="BAR_PX" :height="PHASE_HEIGHT" class="chosen-bar" />
      <rect v-for="n in BARS" :key="n" :x="(n - 1) * BAR_PX + 1.5" :y="(PHASE_HEIGHT - 5) * (1 - phase(n))" :width="BAR_PX - 3" height="3" class="bar" :class="{ faint: amplitude(n) < 0.005 }" />
    </svg>
    <p class="muted foot">Phase, 0° at the foot to 360°. Arrow keys choose a bar and raise or lower it; Delete takes it out.</p>
  </div>
</template>

<style scoped>
.editor { color: var(--c); width: 704px; }
.head { display: flex; gap: 16px; margin-bottom: 8px; }
.head :deep(.cycle) { background: var(--sheet); border: 1px solid var(--hair-2); }
.words { color: var(--ink); }
.words p { margin: 0 0 10px; max-width: 420px; line-height: 1.4; }
.chosen { display: flex; gap: 8px; align-items: center; }
.chosen > .typed { width: 56px; background: var(--field); border-radius: var(--r); padding: 0 6px; }
.chosen b { min-width: 84px; }
.bars { display: block; background: var(--sheet); border: 1px solid var(--hair-2); cursor: crosshair; touch-action: none; }
.grid { stroke: var(--hair); }
.bar { fill: currentColor; }
.bar.faint { opacity: 0.25; }
.chosen-bar { fill: var(--select); }
.numbers { display: block; }
.numbers text { font-size: var(--fs-11); fill: var(--ink-3); }
.foot { margin: 4px 0 0; font-size: var(--fs-11); }
</style>
