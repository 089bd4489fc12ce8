<script setup lang="ts">
/** A source as a small sign: its own cycle or steps, or a sign of its kind. */
import { computed } from 'vue'

import type { SourceView } from '../../engine/generated/SourceView'

const props = defineProps<{ source: SourceView }>()
const W = 24
const H = 14
/** Signs of the kinds that have no picture of their own, as levels. */
const SIGNS: Record<string, number[]> = {
  envelope: [0, 0.5, 1, 0.8, 0.65, 0.6, 0.6, 0.6, 0.3, 0],
  played: [0.5, 0.5, 0.5, 0.5, 0.5, 0.5, 0.5, 0.5],
  follower: [0, 0.9, 0.6, 0.75, 0.5, 0.6, 0.35, 0.4, 0.2, 0.1],
}
const stairs = (levels: number[]) => levels.map((level, i) => `${i ? 'L' : 'M'}${(i / levels.length) * W} ${H - 1 - level * (H - 2)}H${((i + 1) / levels.length) * W}`).join('')
const curve = (levels: number[]) => levels.map((level, i) => `${i ? 'L' : 'M'}${((i / (levels.length - 1)) * W).toFixed(1)} ${(H - 1 - level * (H - 2)).toFixed(1)}`).join('')
const path = computed(() => {
  const { shape, steps, kind } = props.source
  if (shape) return curve(shape.picture)
  if (steps) return stairs(steps.slice(0, 12).map((step) => step.values[0]?.value ?? 0))
  if (kind === 'random') return stairs([0.4, 0.9, 0.2, 0.6, 0.1, 0.75])
  if (kind === 'macro') return `M2 ${H / 2}H${W - 2}M${W * 0.64} 1V${H - 1}`
  return curve(SIGNS[kind] ?? SIGNS.played)
})
</script>

<template>
  <svg :width="W" :height="H" aria-hidden="true"><path :d="path" fill="none" stroke="currentColor" stroke-width="1.5" stroke-linejoin="round" /></svg>
</template>
