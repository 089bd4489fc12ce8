<script setup lang="ts">
/** The result on the same time axis: spectrogram and loudness, and the spectrum at the cursor turned beside it. */
import { useElementSize } from '@vueuse/core'
import { computed, nextTick, onMounted, ref, watch } from 'vue'

import SpectrumPane from './SpectrumPane.vue'
import { timeToX, type Axis } from '../../draw/axis'
import { drawSpectrogram } from '../../draw/drawSpectrogram'
import { plotHeight, TOP_PX } from '../../draw/result'
import type { Spectrum, Unfolded } from '../../engine/bench'
import type { ExplanationView } from '../../engine/generated/ExplanationView'
import { useMoving } from '../../stores/moving'
import { useSettings } from '../../stores/settings'

const props = defineProps<{ picture?: Unfolded; version: number; axis: Axis; cursorS: number; releaseS: number; finished?: boolean }>()
const emit = defineEmits<{ explained: [explanation: ExplanationView]; seen: [spectrum: Spectrum] }>()
const settings = useSettings()
const moving = useMoving()
const pane = ref<HTMLElement>()
const canvas = ref<HTMLCanvasElement>()
const { height: paneHeight } = useElementSize(pane)
const top = TOP_PX
const height = computed(() => plotHeight(paneHeight.value))

function paint() {
  if (canvas.value && props.picture) drawSpectrogram(canvas.value, props.picture)
}
watch(() => props.picture, paint)
watch(() => settings.dark, () => void nextTick(paint))
onMounted(paint)

// loudness: 0 dB at the top, -60 at the foot
const loudY = (db: number) => top + height.value * Math.max(0, Math.min(1, -db / 60))
function course(picture: Unfolded | undefined): string {
  if (!picture) return ''
  const step = props.axis.widthPx / picture.columns
  let path = ''
  let open = false
  for (let i = 0; i < picture.columns; i++) {
    // below the foot nothing is drawn; what comes back begins anew
    const above = picture.loudnessDb[i] > -60
    if (above) path += `${open ? 'L' : 'M'}${((i + 0.5) * step).toFixed(1)} ${loudY(picture.loudnessDb[i]).toFixed(1)}`
    open = above
  }
  return path
}
const loudness = computed(() => course(props.picture))
/** Gain reduction hangs from the top: 18 dB over a third of the height. */
const GAIN_DB = 18
const gain = computed(() => {
  const list = props.picture?.gainDb ?? []
  if (!props.finished || !list.length) return ''
  const step = props.axis.widthPx / list.length
  const y = (db: number) => top + (height.value / 3) * Math.max(0, Math.min(1, Math.abs(db) / GAIN_DB))
  return `M0 ${top}${list.map((db, i) => `L${((i + 0.5) * step).toFixed(1)} ${y(db).toFixed(1)}`).join('')}L${props.axis.widthPx} ${top}Z`
})
/** What it is at the cursor, in words of the drawing. */
const gainNow = computed(() => {
  const list = props.picture?.gainDb ?? []
  const at = Math.floor((cursorX.value / props.axis.widthPx) * list.length)
  const db = list[Math.max(0, Math.min(list.length - 1, at))]
  return props.finished && db !== undefined ? `${db < 0 ? '−' : '+'}${Math.abs(db).toFixed(1)} dB` : ''
})
const cursorX = computed(() => timeToX(props.axis, props.cursorS))
</script>

<template>
  <div ref="pane" class="result">
    <SpectrumPane :ready="picture !== undefined" :version="version" :cursor-s="cursorS" :pane-height="paneHeight" v-show="!finished" @explained="emit('explained', $event)" @seen="emit('seen', $event)" />
    <div class="sheet" :style="{ width: `${axis.widthPx}px`, top: `${top}px`, height: `${height}px` }">
      <canvas ref="canvas" aria-label="Spectrogram of the auditioned note" role="img" data-testid="spectrogram" />
    </div>
    <svg class="lines" :width="axis.widthPx + 40" :height="paneHeight">
      <template v-if="moving.ghosts"><path :d="course(moving.ghosts.low)" class="ghost" /><path :d="course(moving.ghosts.high)" class="ghost high" /></template>
      <path v-if="gain" :d="gain" class="gain" data-testid="gain" />
      <text v-if="gain" :x="Math.min(cursorX + 6, axis.widthPx - 50)" :y="top + 13" class="gain-now">{{ gainNow }}</text>
      <path :d="loudness" class="halo" />
      <path :d="loudness" class="loudness" data-testid="loudness" />
      <path :d="`M${timeToX(axis, releaseS)} 0V${top + height}`" class="release" />
      <path :d="`M${cursorX} 0V${top + height}`" class="cursor-halo" /><path :d="`M${cursorX} 0V${top + height}`" class="cursor" />
      <template v-for="db in [-12, -24, -36, -48]" :key="db">
        <path :d="`M${axis.widthPx} ${loudY(db)}h4`" class="tick" />
        <text :x="axis.widthPx + 7" :y="loudY(db) + 4" class="scale">−{{ -db }}</text>
      </template>
      <text :x="axis.widthPx + 7" :y="top - 5" class="scale">dB</text>
    </svg>
  </div>
</template>

<style scoped>
.result { position: relative; height: 100%; overflow: hidden; }
.sheet { position: absolute; left: var(--side); border: 1px solid var(--hair-2); background: var(--sp0); overflow: hidden; }
canvas { display: block; width: 100%; height: 100%; }
.lines { position: absolute; left: var(--side); top: 0; pointer-events: none; }
.tick { stroke: var(--ink-3); }
.scale { font-size: var(--fs-11); fill: var(--ink-3); }
.halo { fill: none; stroke: var(--sheet); stroke-width: 4.5; stroke-linejoin: round; }
.ghost { fill: none; stroke: var(--swept); stroke-width: 1.4; stroke-dasharray: 3 3; }
.ghost.high { stroke-dasharray: none; }
  .gain { fill: var(--warn); fill-opacity: 0.16; stroke: var(--warn); }
.gain-now { font-weight: 600; font-size: var(--fs-12); fill: var(--warn); paint-order: stroke; stroke: var(--sheet); stroke-width: 3px; }
.loudness { fill: none; stroke: var(--ink); stroke-width: 1.7; }
.release { stroke: var(--ink); stroke-dasharray: 4 3; }
.cursor-halo { stroke: var(--sheet); stroke-width: 3; opacity: 0.8; }
.cursor { stroke: var(--ink); stroke-width: 1.2; }
</style>
