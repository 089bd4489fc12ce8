<script setup lang="ts">
/** The result on the same time axis: spectrogram and loudness, and the spectrum at the cursor turned beside it. */
import { useElementSize } from '@vueuse/core'
import { computed, nextTick, onMounted, ref, watch } from 'vue'

import CyclesPane from './CyclesPane.vue'
import SpectrumPane from './SpectrumPane.vue'
import { useLatest } from '../../composables/heard/useLatest'
import { HIGHEST_HZ, LOWEST_HZ, timeToX, xToTime, type Axis } from '../../draw/axis'
import { rampColours } from '../../draw/ramp'
import { linePath } from '../../draw/line'
import { hzToY, marksHz, plotHeight, TOP_PX, yToHz } from '../../draw/result'
import { inkOf } from '../../draw/tokens'
import { workers, Superseded, type Pointed } from '../../engine/workers'
import type { Spectrum, Unfolded } from '../../engine/workers'
import type { Question } from '../../engine/generated/Question'
import { useDocument } from '../../stores/document'
import type { ExplanationView } from '../../engine/generated/ExplanationView'
import { useMoving } from '../../stores/moving'
import { useSettings } from '../../stores/settings'

const document = useDocument()
const props = defineProps<{ picture?: Unfolded; version: number; axis: Axis; cursorS: number; releaseS: number; finished?: boolean }>()
const emit = defineEmits<{ explained: [explanation: ExplanationView]; seen: [spectrum: Spectrum] }>()
const settings = useSettings()
const moving = useMoving()
const pane = ref<HTMLElement>()
const canvas = ref<HTMLCanvasElement>()
const { height: paneHeight } = useElementSize(pane)
const top = TOP_PX
const height = computed(() => plotHeight(paneHeight.value))

// painted by the worker that draws
onMounted(() => canvas.value && workers().paintOn(canvas.value.transferControlToOffscreen(), rampColours()))
watch(() => settings.dark, () => void nextTick(() => workers().recolour(rampColours())))

// loudness: 0 dB at the top, -60 at the foot
const loudY = (db: number) => top + height.value * Math.max(0, Math.min(1, -db / 60))
function course(picture: Unfolded | undefined): string {
  if (!picture) return ''
  const { columns, loudnessDb } = picture
  const x = (i: number) => ((i + 0.5) * props.axis.widthPx) / columns
  let path = ''
  // below the foot nothing is drawn; what comes back begins anew
  for (let from = 0; from < columns; from++) {
    let to = from
    while (to < columns && loudnessDb[to] > -60) to++
    path += linePath(to - from, (i) => x(from + i), (i) => loudY(loudnessDb[from + i]))
    from = to
  }
  return path
}
/** The spectrogram in words, of the last exact picture. */
const told = computed<string>((before) => props.picture?.told.spectrogram || (before ?? ''))
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
  const answer = props.finished && db !== undefined ? document.ask({ ask: 'change_words', change_db: db }) : undefined
  return answer?.is === 'text' ? answer.text : ''
})
/** Frequencies with a number inside the picture, where they do not crowd. */
const marks = computed(() => {
  let last = Infinity
  return marksHz(settings.span).filter((hz) => last - hzToY(height.value, hz, settings.span) > 18 && (last = hzToY(height.value, hz, settings.span)))
})
/** What stands under the pointer. */
const pointed = ref<{ x: number; y: number; what: Pointed }>()
const point = useLatest<{ x: number; y: number } | undefined>(async (at) => {
  if (!at || !props.picture) return void (pointed.value = undefined)
  try {
    const what = await workers().point(xToTime(props.axis, at.x), yToHz(height.value, at.y + top, settings.span))
    if (over) pointed.value = { ...at, what }
  } catch (error) {
    if (!(error instanceof Superseded)) pointed.value = undefined
  }
})
let over = false
function move(event: PointerEvent) {
  const box = (event.currentTarget as Element).getBoundingClientRect()
  over = event.pointerType !== 'touch' || event.buttons > 0
  point(over ? { x: event.clientX - box.left, y: event.clientY - box.top } : undefined)
}
function leave() {
  over = false
  pointed.value = undefined
}
const pointedY = computed(() => {
  const at = pointed.value
  return at && (at.what.partial_hz === null ? at.y + top : hzToY(height.value, at.what.partial_hz, settings.span))
})
function see(question: Question) {
  const answer = document.ask(question)
  if (answer.is === 'span') settings.span = answer.span
}
/** Part of the frequencies, around the one under the pointer. */
const zoom = (aroundHz: number, times: number) => see({ ask: 'zoom_span', span: settings.span, around_hz: aroundHz, times })
/** Higher or lower ones. */
const shift = (ratio: number) => see({ ask: 'move_span', span: settings.span, ratio })
function wheel(event: WheelEvent) {
  if (!event.ctrlKey || !pane.value) return
  event.preventDefault()
  zoom(yToHz(height.value, event.clientY - pane.value.getBoundingClientRect().top, settings.span), event.deltaY > 0 ? 1.25 : 0.8)
}
function key(event: KeyboardEvent) {
  const middle = Math.sqrt(settings.span.from_hz * settings.span.to_hz)
  const acts: Record<string, () => void> = {
    '+': () => zoom(middle, 0.8),
    '=': () => zoom(middle, 0.8),
    '-': () => zoom(middle, 1.25),
    '0': all,
    ArrowUp: () => shift(1.12),
    ArrowDown: () => shift(1 / 1.12),
  }
  const act = event.ctrlKey || event.metaKey || event.altKey ? undefined : acts[event.key]
  if (!act || event.target !== pane.value) return
  event.preventDefault()
  event.stopPropagation()
  act()
}
function all() {
  settings.span = { from_hz: LOWEST_HZ, to_hz: HIGHEST_HZ }
}
const cursorX = computed(() => timeToX(props.axis, props.cursorS))
</script>

<template>
  <div ref="pane" class="result" tabindex="0" role="group" aria-label="Result: keys + and − show part of the frequencies, 0 all, arrows higher and lower ones" @wheel="wheel" @keydown="key">
    <CyclesPane v-if="!finished && settings.beside === 'cycles'" :ready="picture !== undefined" :version="version" :cursor-s="cursorS" :pane-height="paneHeight" />
    <SpectrumPane :whole="finished" :shows="settings.beside === 'stereo' ? 'stereo' : 'spectrum'" :ready="picture !== undefined" :version="version" :cursor-s="cursorS" :pane-height="paneHeight" v-show="!finished && settings.beside !== 'cycles'" @explained="emit('explained', $event)" @seen="emit('seen', $event)" />
    <div class="sheet" :style="{ width: `${axis.widthPx}px`, top: `${top}px`, height: `${height}px` }" data-testid="sheet" @pointermove="move" @pointerleave="leave">
      <canvas ref="canvas" :aria-label="`Spectrogram of ${settings.pictured}. ${told}`" role="img" data-testid="spectrogram" />
    </div>
    <button v-if="!settings.isWholeSpan" type="button" class="link-btn whole" title="Shows all frequencies again; Ctrl and the wheel show part of them" @pointerdown.stop @click="all">all Hz</button>
    <svg class="lines" :width="axis.widthPx + 40" :height="paneHeight">
      <template v-if="moving.ghosts"><path :d="course(moving.ghosts.low)" class="ghost" /><path :d="course(moving.ghosts.high)" class="ghost high" /></template>
      <path v-if="gain" :d="gain" class="gain" data-testid="gain" />
      <text v-if="gain" :x="Math.min(cursorX + 6, axis.widthPx - 50)" :y="top + 13" class="gain-now">{{ gainNow }}</text>
      <path :d="loudness" class="halo" />
      <path :d="loudness" class="loudness" data-testid="loudness" />
      <path :d="`M${timeToX(axis, releaseS)} 0V${top + height}`" class="release" />
      <path :d="`M${cursorX} 0V${top + height}`" class="cursor-halo" /><path :d="`M${cursorX} 0V${top + height}`" class="cursor" />
      <path v-if="pointed" :d="`M0 ${pointedY}H${axis.widthPx}M${pointed.x} ${top}V${top + height}`" class="hair" />
      <template v-for="db in [-12, -24, -36, -48]" :key="db">
        <path :d="`M${axis.widthPx} ${loudY(db)}h4`" class="tick" />
        <text :x="axis.widthPx + 7" :y="loudY(db) + 4" class="scale">−{{ -db }}</text>
      </template>
      <text :x="axis.widthPx + 7" :y="top - 5" class="scale">dB</text>
      <!-- in Finish the chains stand where the frequencies stand else -->
      <g v-if="finished" data-testid="frequencies-inside"><text v-for="hz in marks" :key="hz" :x="axis.widthPx - 5" text-anchor="end" :y="hzToY(height, hz, settings.span) + 4" class="scale inside">{{ hz >= 1000 ? `${hz / 1000} k` : hz }}{{ hz === marks[0] ? ' Hz' : '' }}</text></g>
    </svg>
    <div
      v-if="pointed" class="read" role="tooltip" data-testid="read" :data-time-s="xToTime(axis, pointed.x)"
      :style="{ left: `calc(var(--side) + ${pointed.x > axis.widthPx - 190 ? pointed.x - 186 : pointed.x + 12}px)`, top: `${Math.max(0, Math.min((pointedY ?? 0) - 22, paneHeight - 66))}px` }"
    >
      <b>{{ pointed.what.pitch }}</b>
      <span>{{ pointed.what.level }} at {{ pointed.what.time }}</span>
      <span v-if="pointed.what.made_by"><i :style="{ background: inkOf(pointed.what.by ?? 0) }" />{{ pointed.what.made_by }}</span>
    </div>
  </div>
</template>

<style scoped>
.result { position: relative; height: 100%; overflow: hidden; outline-offset: -2px; }
.sheet { position: absolute; left: var(--side); border: 1px solid var(--hair-2); background: var(--sp0); overflow: hidden; }
canvas { display: block; width: 100%; height: 100%; }
.lines { position: absolute; left: var(--side); top: 0; pointer-events: none; }
.hair { stroke: var(--ink); stroke-width: 0.7; stroke-dasharray: 2 3; fill: none; }
.read { position: absolute; z-index: 30; display: grid; padding: 4px 9px; background: var(--sheet); border: 1px solid var(--rule); border-radius: var(--r); pointer-events: none; white-space: nowrap; }
.read span { color: var(--ink-2); font-size: var(--fs-11); }
.read i { display: inline-block; width: 8px; height: 8px; border-radius: 50%; margin-right: 6px; }
.whole { position: absolute; left: calc(var(--side) + 4px); top: -2px; z-index: 6; }
.tick { stroke: var(--ink-3); }
.scale { font-size: var(--fs-11); fill: var(--ink-3); }
.inside { paint-order: stroke; stroke: var(--sheet); stroke-width: 3px; fill: var(--ink-2); }
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
