<script setup lang="ts">
/** How a drive bends what is pressed into it, and how far the sound reaches there. */
import { computed } from 'vue'

import type { BendView } from '../../engine/generated/BendView'

const props = defineProps<{ bend: BendView; peak?: number }>()
const WIDTH = 168
const HEIGHT = 96
const x = (pressed: number) => (WIDTH / 2) * (1 + Math.max(-1, Math.min(1, pressed / props.bend.reach)))
const y = (level: number) => HEIGHT / 2 - (HEIGHT / 2 - 4) * Math.max(-1, Math.min(1, level))
const place = (i: number) => props.bend.reach * ((2 * i) / (props.bend.levels.length - 1) - 1)
const path = (list: [number, number][]) => list.map(([at, level], i) => `${i ? 'L' : 'M'}${x(at).toFixed(1)} ${y(level).toFixed(1)}`).join('')
const curve = computed(() => path(props.bend.levels.map((level, i) => [place(i), level])))
/** How high the sound is pressed in. */
const pressed = computed(() => (props.peak === undefined ? undefined : props.peak * props.bend.gain))
const used = computed(() => {
  const most = pressed.value
  return most === undefined ? '' : path(props.bend.levels.map((level, i): [number, number] => [place(i), level]).filter(([at]) => Math.abs(at) <= most))
})
const words = computed(() => {
  if (pressed.value === undefined) return 'Where the sound stands comes when the hand rests'
  const percent = Math.round(100 * pressed.value)
  return `Pressed in, the sound peaks at ${percent}% of full scale`
})
</script>

<template>
  <figure class="bend" data-testid="bend">
    <svg :width="WIDTH" :height="HEIGHT" role="img" :aria-label="`What comes out for what goes in. ${words}.`">
      <path :d="`M${WIDTH / 2} 0V${HEIGHT}M0 ${HEIGHT / 2}H${WIDTH}`" class="axis" />
      <rect v-if="pressed !== undefined" :x="x(-pressed)" y="0" :width="x(pressed) - x(-pressed)" :height="HEIGHT" class="reach" data-testid="reach" />
      <path :d="curve" class="curve" /><path v-if="used" :d="used" class="used" />
    </svg>
    <figcaption>{{ words }}</figcaption>
  </figure>
</template>

<style scoped>
.bend { margin: 0; padding: 5px 10px 7px; display: grid; gap: 3px; min-width: 0; }
svg { flex: none; border: 1px solid var(--hair-2); background: var(--sheet); }
.axis { stroke: var(--hair); fill: none; }
.reach { fill: var(--swept); fill-opacity: 0.15; }
.curve { fill: none; stroke: var(--ink-3); stroke-width: 1.2; }
.used { fill: none; stroke: var(--ink); stroke-width: 2.6; }
figcaption { font-size: var(--fs-11); color: var(--ink-2); min-width: 0; }
</style>
