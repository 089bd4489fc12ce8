<script setup lang="ts">
/** The result on the same time axis: spectrogram and loudness, and the spectrum at the cursor turned beside it. */
import { useElementSize, useRafFn } from '@vueuse/core'
import { computed, nextTick, onMounted, ref, shallowRef, watch } from 'vue'

import { HIGHEST_HZ, hzToShare, LOWEST_HZ, timeToX, type Axis } from '../../draw/axis'
import { drawSpectrogram } from '../../draw/drawSpectrogram'
import { bench } from '../../composables/useUnfold'
import { inkOf } from '../../draw/tokens'
import { Superseded, type Spectrum, type Unfolded } from '../../engine/bench'
import { LIVE_BINS } from '../../engine/sound'
import type { Explained } from '../../engine/generated/Explained'
import type { Explanation } from '../../engine/generated/Explanation'
import { useDocument } from '../../stores/document'
import { usePlaying } from '../../stores/playing'
import { useSettings } from '../../stores/settings'

const props = defineProps<{ picture?: Unfolded; version: number; axis: Axis; cursorS: number; releaseS: number }>()
const emit = defineEmits<{ explained: [explanation: Explanation] }>()
const document = useDocument()
const settings = useSettings()
const pane = ref<HTMLElement>()
const canvas = ref<HTMLCanvasElement>()
const { height: paneHeight } = useElementSize(pane)
const top = 18
const height = computed(() => Math.max(40, paneHeight.value - top - 8))
const y = (hz: number) => top + height.value * (1 - hzToShare(hz))
const MARKS_HZ = [50, 100, 200, 500, 1000, 2000, 5000, 10_000].filter((hz) => hz > LOWEST_HZ && hz < HIGHEST_HZ)
const hzLabel = (hz: number) => (hz >= 1000 ? `${hz / 1000} k` : `${hz}`)

function paint() {
  if (canvas.value && props.picture) drawSpectrogram(canvas.value, props.picture)
}
watch(() => props.picture, paint)
watch(() => settings.dark, () => void nextTick(paint))
onMounted(paint)

// loudness: 0 dB at the top, -60 at the foot
const loudY = (db: number) => top + height.value * Math.max(0, Math.min(1, -db / 60))
const loudness = computed(() => {
  const picture = props.picture
  if (!picture) return ''
  const step = props.axis.widthPx / picture.columns
  let path = ''
  for (let i = 0; i < picture.columns && picture.loudnessDb[i] > -60; i++) {
    path += `${path ? 'L' : 'M'}${((i + 0.5) * step).toFixed(1)} ${loudY(picture.loudnessDb[i]).toFixed(1)}`
  }
  return path
})

// spectrum at the cursor, asked for anew whenever cursor or sound change; the latest wins
const ROWS = 480
const spectrum = shallowRef<Spectrum>()
/** The selected strip, if it is a filter: its response is drawn too. */
const filter = computed(() => (document.selectedStrip?.kind === 'filter' ? document.selectedStrip.id : null))
let busy = false
let again = false
async function look() {
  if (!props.picture) return
  if (busy) {
    again = true
    return
  }
  busy = true
  try {
    spectrum.value = await bench().spectrum(props.cursorS, ROWS, filter.value)
    emit('explained', spectrum.value.explanation)
  } catch (error) {
    // the picture itself says what is wrong
    if (!(error instanceof Superseded)) spectrum.value = undefined
  } finally {
    busy = false
  }
  if (again) {
    again = false
    void look()
  }
}
watch(() => [props.cursorS, props.version, filter.value], () => void look(), { immediate: true })
const DB_WIDTH = 190
const dbX = (db: number) => DB_WIDTH * (1 - Math.max(0, Math.min(1, (db + 84) / 84)))
const outline = computed(() => {
  const values = spectrum.value?.rowsDb
  if (!values) return ''
  const points = Array.from(values, (db, i) => `${dbX(db).toFixed(1)} ${(top + height.value * (1 - (i + 0.5) / ROWS)).toFixed(1)}`)
  return `M${points.join('L')}`
})
/** The strongest partials, not too close to each other, for labels. */
const partials = computed(() => {
  const chosen: { db: number; hz: number; y: number }[] = []
  for (const { hz, db } of spectrum.value?.partials ?? []) {
    const at = y(hz)
    if (chosen.length < 8 && at > top && at < top + height.value && chosen.every((other) => Math.abs(other.y - at) > 13)) chosen.push({ hz, db, y: at })
  }
  return chosen
})
// what theory makes of it: one line for each partial in the colour of the operator that causes it
const theory = computed(() => (spectrum.value?.explanation.partials ?? []).flatMap((partial) => {
  const at = y(partial.hz)
  return at > top && at < top + height.value && partial.predicted_db > -84 ? [{ ...partial, y: at }] : []
}))
const isLit = (units: number[]) => document.lit === null || units.includes(document.lit)
const pointed = ref<{ x: number; y: number; partial: Explained }>()
/** The partial nearest to the pointer. */
function pointAt(event: PointerEvent) {
  const box = (event.currentTarget as Element).getBoundingClientRect()
  const pointerY = event.clientY - box.top
  const near = theory.value.filter((partial) => Math.abs(partial.y - pointerY) < 9).sort((a, b) => Math.abs(a.y - pointerY) - Math.abs(b.y - pointerY) || b.predicted_db - a.predicted_db)[0]
  pointed.value = near && { x: event.clientX - box.left, y: near.y, partial: near }
}
const decibels = (db: number | null) => (db === null ? 'not found' : `${db.toFixed(1).replace('-', '−')} dB`)
// the response of the selected filter, 0 dB where the scale has it
const RESPONSE_TOP_DB = 30
const response = computed(() => {
  const list = spectrum.value?.responseDb ?? []
  const x = (db: number) => DB_WIDTH * (1 - Math.max(0, Math.min(1, (db + 84 - RESPONSE_TOP_DB) / 84)))
  return list.map((db, i) => `${i ? 'L' : 'M'}${x(db).toFixed(1)} ${(top + height.value * (1 - (i + 0.5) / list.length)).toFixed(1)}`).join('')
})
// what is playing now, over the same frequencies
const playing = usePlaying()
const LIVE_ROWS = 150
const bins = new Float32Array(LIVE_BINS)
const live = ref('')
useRafFn(() => {
  const binHz = playing.spectrum(bins)
  const from = (row: number) => (LOWEST_HZ * (HIGHEST_HZ / LOWEST_HZ) ** (row / LIVE_ROWS)) / binHz
  let path = ''
  let loudest = -Infinity
  for (let row = 0; row < LIVE_ROWS && binHz > 0; row++) {
    let db = bins[Math.round(from(row))]
    for (let bin = Math.ceil(from(row)); bin < from(row + 1); bin++) db = Math.max(db, bins[bin])
    loudest = Math.max(loudest, db)
    path += `${row ? 'L' : 'M'}${dbX(db).toFixed(1)} ${(top + height.value * (1 - (row + 0.5) / LIVE_ROWS)).toFixed(1)}`
  }
  live.value = loudest > -84 ? path : ''
}, { fpsLimit: 30 })
const cursorX = computed(() => timeToX(props.axis, props.cursorS))
const partialLabel = (hz: number) => (hz < 1000 ? `${hz.toFixed(0)} Hz` : `${(hz / 1000).toFixed(2)} kHz`)
</script>

<template>
  <div ref="pane" class="result">
    <svg class="spectrum" width="288" :height="paneHeight" aria-label="Spectrum at the cursor" @pointermove="pointAt" @pointerleave="pointed = undefined">
      <rect width="288" :height="paneHeight" fill="transparent" />
      <g transform="translate(46 0)">
        <template v-for="db in [-60, -40, -20]" :key="db">
          <path :d="`M${dbX(db)} ${top}V${top + height}`" class="grid" />
          <text :x="dbX(db)" :y="top - 5" text-anchor="middle" class="scale">−{{ -db }}</text>
        </template>
        <text :x="DB_WIDTH" :y="top - 5" text-anchor="end" class="scale">dB</text>
        <path v-if="outline" :d="`${outline}L${DB_WIDTH} ${top}V${top + height}Z`" class="area" />
        <path v-if="outline" :d="outline" class="outline" />
        <path :d="`M${DB_WIDTH + 0.5} ${top}V${top + height}`" class="axis" />
        <g v-for="partial in theory" :key="`${partial.hz} ${partial.words}`" class="theory" :style="{ color: inkOf(partial.by), opacity: isLit(partial.units) ? 1 : 0.12 }" data-testid="theory" :data-by="partial.by">
          <path :d="`M${DB_WIDTH} ${partial.y}H${dbX(partial.predicted_db)}`" :stroke-dasharray="partial.folded ? '3 2' : undefined" />
          <path v-if="partial.folded" :d="`M${dbX(partial.predicted_db) - 1} ${partial.y - 3}l-4 3l4 3`" />
          <circle v-else :cx="dbX(partial.predicted_db)" :cy="partial.y" r="2.2" />
        </g>
        <path v-if="live" :d="live" class="live" data-testid="live-spectrum" />
        <text v-if="response" :x="dbX(-RESPONSE_TOP_DB)" :y="top + height - 4" text-anchor="middle" class="scale" :style="{ fill: inkOf(filter ?? 0) }">filter 0 dB</text>
        <path v-if="response" :d="response" class="response" :style="{ color: inkOf(filter ?? 0) }" data-testid="response" />
        <g v-for="partial in partials" :key="partial.hz">
          <text :x="Math.max(dbX(partial.db) - 6, 4)" :y="partial.y + 4" text-anchor="end" class="partial" data-testid="partial">{{ partialLabel(partial.hz) }}</text>
        </g>
      </g>
      <template v-for="hz in MARKS_HZ" :key="hz">
        <path :d="`M283 ${y(hz)}h5`" class="tick" />
        <text x="280" :y="y(hz) + 4" text-anchor="end" class="scale">{{ hzLabel(hz) }}</text>
      </template>
      <text x="280" :y="top - 5" text-anchor="end" class="scale">Hz</text>
    </svg>
    <div v-if="pointed" class="why" role="tooltip" data-testid="why" :style="{ top: `${Math.max(2, Math.min(pointed.y - 14, paneHeight - 62))}px`, color: inkOf(pointed.partial.by) }">
      <b>{{ pointed.partial.words }}</b>
      <span>{{ partialLabel(pointed.partial.hz) }}: predicted {{ decibels(pointed.partial.predicted_db) }}, measured {{ decibels(pointed.partial.measured_db) }}</span>
      <span v-if="pointed.partial.meeting > 1">{{ pointed.partial.meeting }} combinations meet here; this is the strongest</span>
      <span v-if="pointed.partial.folded">{{ pointed.partial.folded === 'zero' ? 'below 0 Hz, mirrored up' : 'past half the sample rate, mirrored down: raise the quality' }}</span>
    </div>
    <div class="sheet" :style="{ width: `${axis.widthPx}px`, top: `${top}px`, height: `${height}px` }">
      <canvas ref="canvas" aria-label="Spectrogram of the auditioned note" role="img" data-testid="spectrogram" />
    </div>
    <svg class="lines" :width="axis.widthPx + 40" :height="paneHeight">
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
.spectrum { position: absolute; left: 0; top: 0; }
.sheet { position: absolute; left: 288px; border: 1px solid var(--hair-2); background: var(--sp0); overflow: hidden; }
canvas { display: block; width: 100%; height: 100%; }
.lines { position: absolute; left: 288px; top: 0; pointer-events: none; }
.grid { stroke: var(--hair); }
.tick { stroke: var(--ink-3); }
.axis { stroke: var(--ink); stroke-width: 1.5; }
.scale { font-size: var(--fs-11); fill: var(--ink-3); }
.area { fill: var(--ink); fill-opacity: 0.14; }
.outline { fill: none; stroke: var(--ink-2); stroke-width: 1; }
.theory path { stroke: currentColor; stroke-width: 1.3; fill: none; }
.theory circle { fill: var(--sheet); stroke: currentColor; stroke-width: 1.3; }
.live { fill: none; stroke: var(--swept); stroke-width: 1.2; }
.response { fill: none; stroke: currentColor; stroke-width: 1.8; stroke-dasharray: 5 2; }
.why { position: absolute; left: 290px; z-index: 30; display: grid; padding: 4px 9px; background: var(--sheet); border: 1px solid currentColor; border-radius: var(--r); pointer-events: none; white-space: nowrap; }
.why span { color: var(--ink-2); font-size: var(--fs-11); }
.partial { font-size: var(--fs-11); font-weight: 600; fill: var(--ink); paint-order: stroke; stroke: var(--sheet); stroke-width: 3px; }
.halo { fill: none; stroke: var(--sheet); stroke-width: 4.5; stroke-linejoin: round; }
.loudness { fill: none; stroke: var(--ink); stroke-width: 1.7; }
.release { stroke: var(--ink); stroke-dasharray: 4 3; }
.cursor-halo { stroke: var(--sheet); stroke-width: 3; opacity: 0.8; }
.cursor { stroke: var(--ink); stroke-width: 1.2; }
</style>
