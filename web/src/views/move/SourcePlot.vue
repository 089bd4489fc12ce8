<script setup lang="ts">
/** Where a source stands over the life of the note, and behind it the curve of one value it moves. */
import { computed } from 'vue'

import type { Axis } from '../../draw/axis'
import { coursePath } from '../../draw/line'
import { inkOf } from '../../draw/tokens'
import type { Unfolded } from '../../engine/workers'
import type { LinkView } from '../../engine/generated/LinkView'
import type { SourceView } from '../../engine/generated/SourceView'

const props = defineProps<{ source: SourceView; links: LinkView[]; picture?: Unfolded; axis: Axis; height: number; cursorX: number; selected: boolean; live?: number }>()
const FOOT = 5
const HEAD = 6
const y = (place: number) => props.height - FOOT - (props.height - FOOT - HEAD) * Math.max(0, Math.min(1, place))
const curve = computed(() => props.picture?.places.get(props.source.id))

/** The same in words, of the last exact picture. */
const told = computed<string>((before) => props.picture?.told.places.get(props.source.id) ?? before ?? '')
const path = (values: Float32Array | undefined) => (values ? coursePath(values, props.axis.widthPx, y) : '')
/** How else chance might have it. */
const band = computed(() => {
  const found = props.picture?.bands.get(props.source.id)
  if (!found?.low.length) return ''
  const step = props.axis.widthPx / found.low.length
  const point = (values: Float32Array, i: number) => `${((i + 0.5) * step).toFixed(1)} ${y(values[i]).toFixed(1)}`
  const up = Array.from(found.high, (_, i) => point(found.high, i))
  const down = Array.from(found.low, (_, i) => point(found.low, i)).reverse()
  return `M${[...up, ...down].join('L')}Z`
})
const line = computed(() => path(curve.value))
// what swings is filled from its middle
const rest = computed(() => y(props.source.swings ? 0.5 : 0))
const area = computed(() => (line.value ? `${line.value}V${rest.value}H0Z` : ''))
const behind = computed(() => props.links.find((link) => link.on))
const target = computed(() => {
  const link = behind.value
  const moved = link && props.picture?.moved.get(link.id)
  if (!link || !moved) return ''
  // in a scale of its own: from the lowest to the highest it comes to
  const [low, high] = link.swept
  return path(high - low > 1e-6 ? moved.map((place) => (place - low) / (high - low)) : moved.map(() => 0.5))
})
const ink = computed(() => (behind.value?.unit != null && behind.value.unit < 1000 ? inkOf(behind.value.unit) : 'var(--ink-3)'))
const at = computed(() => {
  const values = curve.value
  if (!values?.length) return undefined
  return values[Math.max(0, Math.min(values.length - 1, Math.floor((props.cursorX / props.axis.widthPx) * values.length)))]
})
const words = computed(() => {
  if (at.value === undefined) return ''
  const shown = props.source.swings ? 2 * at.value - 1 : at.value
  const text = Math.abs(shown).toFixed(2)
  return shown < -0.004 ? `−${text}` : props.source.swings && shown > 0.004 ? `+${text}` : text
})
/** About the width of a letter of the name at the right, and of what stands at the cursor. */
const LETTER_PX = 6.5
const WORDS_PX = 48
/** The name has the first line at the right: what stands at the cursor keeps below it there. */
const nameFrom = computed(() => (behind.value && target.value ? props.axis.widthPx - 8 - Math.min(props.axis.widthPx * 0.6, behind.value.target.length * LETTER_PX) : Infinity))
const wordsY = computed(() => Math.max(props.cursorX + WORDS_PX > nameFrom.value ? 31 : 13, y(at.value ?? 0) - 5))
const left = computed(() => props.cursorX > props.axis.widthPx - 60)
</script>

<template>
  <svg class="plot" :width="axis.widthPx" :height="height" role="img" :aria-label="`Course of ${source.name}. ${told}`">
    <path :d="`M0 ${rest}H${axis.widthPx}`" class="rest" />
    <g :opacity="source.on && !source.muted ? 1 : 0.35">
      <path v-if="band" :d="band" class="band" data-testid="band"><title>Eight other seeds</title></path>
      <path v-else :d="area" class="area" />
      <path v-if="target" :d="target" class="target" :style="{ stroke: ink }" data-testid="target" />
      <path :d="line" class="line" :stroke-width="selected ? 2 : 1.5" data-testid="place" />
    </g>
    <foreignObject v-if="behind && target" :x="axis.widthPx * 0.4" y="3" :width="axis.widthPx * 0.6 - 8" height="16" class="of"><div class="name" :style="{ color: ink }">{{ behind.target }}</div></foreignObject>
    <circle v-if="live !== undefined" :cx="axis.widthPx - 4" :cy="y(live)" r="3.5" class="live" data-testid="live" />
    <template v-if="at !== undefined">
      <circle :cx="cursorX" :cy="y(at)" r="3.2" class="mark" />
      <text :x="cursorX + (left ? -8 : 8)" :y="wordsY" :text-anchor="left ? 'end' : 'start'" class="value" data-testid="at-cursor">{{ words }}</text>
    </template>
  </svg>
</template>

<style scoped>
.plot { display: block; overflow: hidden; }
.rest { stroke: var(--hair-2); }
.area { fill: var(--ink); fill-opacity: 0.09; }
.band { fill: var(--ink); fill-opacity: 0.11; }
.line { fill: none; stroke: var(--ink); stroke-linejoin: round; }
.target { fill: none; stroke-width: 1.5; opacity: 0.85; }
.of { pointer-events: none; }
.name { font-size: var(--fs-11); line-height: 16px; text-align: right; white-space: nowrap; overflow: hidden; text-overflow: ellipsis; paint-order: stroke; -webkit-text-stroke: 3px var(--sheet); }
.mark { fill: var(--sheet); stroke: var(--ink); stroke-width: 1.8; }
.live { fill: var(--swept); }
.value { fill: var(--ink); font-weight: 600; font-size: var(--fs-12); paint-order: stroke; stroke: var(--sheet); stroke-width: 4px; }
</style>
