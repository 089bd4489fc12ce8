<script setup lang="ts">
/** The waveform around the cursor, from the whole note down to single cycles: left above, right below. */
import { useStorage } from '@vueuse/core'
import { computed, ref, shallowRef, watch } from 'vue'

import { useLatest } from '../../composables/heard/useLatest'
import { plotHeight, PLOT_LEFT_PX, PLOT_PX, SIDE_PX, TOP_PX } from '../../draw/result'
import { workers, Superseded } from '../../engine/workers'
import { useDocument } from '../../stores/document'
import { useSettings } from '../../stores/settings'
import FrequencyScale from './FrequencyScale.vue'

const props = defineProps<{ ready: boolean; version: number; cursorS: number; paneHeight: number }>()
const document = useDocument()
const settings = useSettings()
/** Room at the left, and at the right, for the frequencies. */
const LEFT_PX = 12
const WIDTH_PX = PLOT_LEFT_PX + PLOT_PX - LEFT_PX
/** How much of it is seen, in seconds, and the least and the most. */
const spanS = useStorage('zolvik-cycles-s', 0.02)
const SHORTEST_S = 0.0005
const LONGEST_S = 60
const plot = computed(() => plotHeight(props.paneHeight))
const fromS = computed(() => props.cursorS - spanS.value / 2)
const sides = shallowRef<[Float32Array, Float32Array]>()
const failed = ref(false)

const look = useLatest<undefined>(async () => {
  if (!props.ready) return
  try {
    sides.value = await workers().cycles(fromS.value, fromS.value + spanS.value, WIDTH_PX)
    failed.value = false
  } catch (error) {
    failed.value = !(error instanceof Superseded)
  }
})
watch(() => [props.cursorS, props.version, spanS.value], () => look(undefined), { immediate: true })

const highest = computed(() => Math.max(0, ...(sides.value ?? []).map((side) => side.reduce((most, value) => Math.max(most, Math.abs(value)), 0))))
/** What fills the height; what is softer than that stays small, so that silence looks like it. */
const SOFTEST = 0.02
/** Between the highest and the lowest of each stretch. */
const paths = computed(() => (sides.value ?? []).map((side, at) => {
  const half = plot.value / 4
  const middle = TOP_PX + half * (1 + 2 * at)
  const y = (value: number) => (middle - (value / Math.max(SOFTEST, highest.value)) * (half - 3)).toFixed(1)
  let path = ''
  for (let x = 0; x < side.length / 2; x++) path += `${x ? 'L' : 'M'}${x} ${y(side[2 * x])}L${x} ${y(side[2 * x + 1])}`
  return { path, middle }
}))
const words = (timeS: number) => {
  const answer = document.ask({ ask: 'time_words', time_s: timeS })
  return answer.is === 'text' ? answer.text : ''
}
const peak = computed(() => {
  const answer = document.ask({ ask: 'level_words', amplitude: highest.value })
  return answer.is === 'text' ? answer.text : ''
})
const zoom = (times: number) => (spanS.value = Math.max(SHORTEST_S, Math.min(LONGEST_S, spanS.value * times)))
function key(event: KeyboardEvent) {
  const times = { '+': 0.5, '=': 0.5, '-': 2, ArrowUp: 0.5, ArrowDown: 2 }[event.key]
  if (!times) return
  event.preventDefault()
  event.stopPropagation()
  zoom(times)
}
</script>

<template>
  <div class="cycles" tabindex="0" role="group" :aria-label="`Waveform at the cursor, ${words(spanS)} of it`" @wheel.prevent="zoom($event.deltaY > 0 ? 1.25 : 0.8)" @keydown="key">
    <svg :width="SIDE_PX" :height="paneHeight">
      <g :transform="`translate(${LEFT_PX} 0)`" data-testid="cycles">
        <template v-for="({ path, middle }, at) in paths" :key="at">
          <path :d="`M0 ${middle}H${WIDTH_PX}`" class="grid" />
          <path :d="path" class="wave" />
          <text :x="WIDTH_PX - 2" :y="middle - plot / 4 + 12" text-anchor="end" class="scale">{{ at ? 'right' : 'left' }}</text>
        </template>
        <path :d="`M${WIDTH_PX / 2} ${TOP_PX}V${TOP_PX + plot}`" class="cursor" />
        <text x="0" :y="TOP_PX - 5" class="scale">{{ words(spanS) }} around the cursor, peak {{ peak }}</text>
        <text v-if="failed" x="4" :y="TOP_PX + 24" class="scale">Nothing is drawn yet</text>
      </g>
      <FrequencyScale :height="plot" :span="settings.span" />
    </svg>
    <span class="zoom" :style="{ left: `${LEFT_PX + WIDTH_PX}px` }">
      <button type="button" class="icon-btn" aria-label="More of the waveform" title="More of it; the wheel too, and the keys − and +" @pointerdown.stop @click="zoom(2)">−</button>
      <button type="button" class="icon-btn" aria-label="Nearer to the waveform" title="Nearer, down to single cycles" @pointerdown.stop @click="zoom(0.5)">+</button>
    </span>
  </div>
</template>

<style scoped>
.cycles { position: absolute; left: 0; top: 0; }
.grid { stroke: var(--hair-2); }
.wave { fill: none; stroke: var(--ink); stroke-width: 1; stroke-linejoin: round; }
.cursor { stroke: var(--ink); stroke-dasharray: 2 3; }
.scale { font-size: var(--fs-11); fill: var(--ink-2); paint-order: stroke; stroke: var(--sheet); stroke-width: 3px; }
.zoom { position: absolute; translate: -100%; top: -6px; display: flex; }
</style>
