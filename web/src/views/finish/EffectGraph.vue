<script setup lang="ts">
/** The spectrum before and after an effect at the cursor, over each other; of an EQ its curve, with a handle for each band. */
import { useElementSize } from '@vueuse/core'
import { computed, ref } from 'vue'

import { HIGHEST_HZ, hzToShare, LOWEST_HZ } from '../../draw/axis'
import { marksHz } from '../../draw/result'
import { useGesture, useWheelGesture } from '../../composables/hand/useGesture'
import type { Spectrum } from '../../engine/workers'
import type { EffectView } from '../../engine/generated/EffectView'
import { useDocument } from '../../stores/document'
import { useFinish } from '../../stores/finish'

const props = defineProps<{ effect: EffectView; spectrum?: Spectrum }>()
const document = useDocument()
const effect = computed(() => document.underHand('effect', props.effect.id)?.effect ?? props.effect)
const finish = useFinish()
const box = ref<HTMLElement>()
const { width, height } = useElementSize(box)
const SCALE_PX = 44
const PAD = { top: 12, foot: 18 }
/** What the curve's scale spans, and the spectrum's, in decibels. */
const CURVE_DB = 24
const SPECTRUM_DB = 84
const plot = computed(() => ({ width: Math.max(60, width.value - 2 * SCALE_PX), height: Math.max(40, height.value - PAD.top - PAD.foot) }))
const x = (hz: number) => SCALE_PX + hzToShare(hz) * plot.value.width
const marks = marksHz({ from_hz: LOWEST_HZ, to_hz: HIGHEST_HZ }).filter((hz) => hz >= 50)
const hzAt = (px: number) => LOWEST_HZ * Math.pow(HIGHEST_HZ / LOWEST_HZ, (px - SCALE_PX) / plot.value.width)
const curveY = (db: number) => PAD.top + plot.value.height * (0.5 - Math.max(-1, Math.min(1, db / CURVE_DB)) / 2)
const dbAt = (px: number) => (0.5 - (px - PAD.top) / plot.value.height) * 2 * CURVE_DB
const levelY = (db: number) => PAD.top + plot.value.height * Math.max(0, Math.min(1, -db / SPECTRUM_DB))
function rows(values: ArrayLike<number>, y: (db: number) => number): string {
  return Array.from(values, (db, i) => `${i ? 'L' : 'M'}${(SCALE_PX + ((i + 0.5) / values.length) * plot.value.width).toFixed(1)} ${y(db).toFixed(1)}`).join('')
}
const foot = computed(() => PAD.top + plot.value.height)
const before = computed(() => (props.spectrum?.beforeDb.length ? `${rows(props.spectrum.beforeDb, levelY)}L${SCALE_PX + plot.value.width} ${foot.value}H${SCALE_PX}Z` : ''))
const after = computed(() => (props.spectrum?.beforeDb.length ? rows(props.spectrum.rowsDb, levelY) : ''))
const curve = computed(() => (effect.value.curve.length ? rows(effect.value.curve, curveY) : ''))
const swept = computed(() => {
  const list = effect.value.swept
  if (!list.length) return ''
  const up = rows(list.map(([, high]) => high), curveY)
  const down = list.map(([low], i) => `L${(SCALE_PX + ((i + 0.5) / list.length) * plot.value.width).toFixed(1)} ${curveY(low).toFixed(1)}`).reverse().join('')
  return `${up}${down}Z`
})
/** Handles stand where bands work, at their gain; cuts at nothing. */
const handles = computed(() => effect.value.bands.map((band, at) => ({ at, on: band.on, x: x(band.hz), y: curveY(band.has_gain ? band.gain_db : 0), label: `Band ${at + 1}, ${band.label}` })))
function place(at: number, event: MouseEvent, gesture: number) {
  const own = box.value!.getBoundingClientRect()
  const band = effect.value.bands[at]
  document.byHand({ of: 'effect', effect: props.effect.id }, { ask: 'drag_band', effect: props.effect.id, at, hz: hzAt(event.clientX - own.left), gain_db: band.has_gain ? dbAt(event.clientY - own.top) : band.gain_db, gesture })
}
const { take } = useGesture<number>({ move: ({ what, gesture }, event) => place(what, event, gesture) })
const turn = useWheelGesture((event, gesture) => nudge('band.q', finish.band, event.deltaY < 0 ? 1 : -1, event.shiftKey, gesture))
function nudge(param: 'band.hz' | 'band.gain_db' | 'band.q', at: number, steps: number, fine: boolean, gesture: number | null = null) {
  document.byHand({ of: 'effect', effect: props.effect.id }, { ask: 'nudge', address: { param, id: props.effect.id, point: at }, units: [], steps, fine, gesture })
}
function key(event: KeyboardEvent, at: number) {
  if (event.ctrlKey || event.metaKey || event.altKey) return
  const across = { ArrowRight: 1, ArrowLeft: -1 }[event.key]
  const up = { ArrowUp: 1, ArrowDown: -1 }[event.key]
  if (across !== undefined) nudge('band.hz', at, across, event.shiftKey)
  else if (up !== undefined) nudge(effect.value.bands[at].has_gain ? 'band.gain_db' : 'band.q', at, up, event.shiftKey)
  else if (event.key === 'Delete') document.edit({ do: 'remove_band', effect: effect.value.id, at })
  else return
  event.preventDefault()
  event.stopPropagation()
}
/** A double click on empty ground makes a band there. */
function add(event: MouseEvent) {
  const own = box.value!.getBoundingClientRect()
  if (!effect.value.takes_band) return
  finish.addBand(props.effect, [hzAt(event.clientX - own.left), dbAt(event.clientY - own.top)])
}
</script>

<template>
  <div ref="box" class="graph" @dblclick="add" @wheel="effect.bands.length && ($event.preventDefault(), turn($event))">
    <svg :width="width" :height="height" role="group" :aria-label="`Spectrum before and after ${effect.title} at the cursor`">
      <template v-for="hz in marks" :key="hz">
        <path :d="`M${x(hz)} ${PAD.top}V${foot}`" class="grid" />
        <text :x="x(hz)" :y="foot + 13" text-anchor="middle" class="scale">{{ hz >= 1000 ? `${hz / 1000} k` : hz }}</text>
      </template>
      <template v-if="effect.curve.length">
        <template v-for="db in plot.height < 130 ? [-12, 0, 12] : [-18, -12, -6, 0, 6, 12, 18]" :key="db">
          <path :d="`M${SCALE_PX} ${curveY(db)}h${plot.width}`" class="grid" :class="{ nothing: db === 0 }" />
          <text :x="SCALE_PX - 6" :y="curveY(db) + 4" text-anchor="end" class="scale">{{ db > 0 ? `+${db}` : db < 0 ? `−${-db}` : 0 }}</text>
        </template>
      </template>
      <template v-for="db in [-20, -40, -60]" :key="db">
        <path v-if="!effect.curve.length" :d="`M${SCALE_PX} ${levelY(db)}h${plot.width}`" class="grid" />
        <text :x="SCALE_PX + plot.width + 6" :y="levelY(db) + 4" class="scale">−{{ -db }}</text>
      </template>
      <rect :x="SCALE_PX" :y="PAD.top" :width="plot.width" :height="plot.height" class="frame" />
      <path v-if="before" :d="before" class="before" data-testid="before" />
      <path v-if="after" :d="after" class="after" data-testid="after" />
      <path v-if="swept" :d="swept" class="swept" />
      <path v-if="curve" :d="curve" class="curve" data-testid="curve" />
      <text v-if="!before" :x="SCALE_PX + plot.width / 2" :y="PAD.top + plot.height / 2" text-anchor="middle" class="scale">{{ effect.on ? 'The spectrum at the cursor comes when the hand rests' : 'Switched off: the sound goes through as it is' }}</text>
      <g
        v-for="handle in handles" :key="handle.at" class="handle" :class="{ on: finish.band === handle.at, off: !handle.on }" tabindex="0" role="slider" :aria-label="handle.label" :aria-valuenow="effect.bands[handle.at].hz" :aria-valuetext="effect.bands[handle.at].values.map(({ label, number, unit }) => `${label} ${number} ${unit}`).join(', ')"
        :transform="`translate(${handle.x} ${handle.y})`" :data-testid="`band-${handle.at}`" @pointerdown.stop="(finish.band = handle.at), take($event, handle.at)" @focus="finish.band = handle.at" @keydown="key($event, handle.at)" @dblclick.stop="document.edit({ do: 'switch_band', effect: effect.id, at: handle.at, on: !handle.on })"
      >
        <title>Drag: frequency and gain. Wheel: how narrow. Double click: on or off. Arrow keys; Delete takes it out.</title>
        <rect x="-9" y="-9" width="18" height="18" rx="2" /><text y="4" text-anchor="middle">{{ handle.at + 1 }}</text>
      </g>
    </svg>
  </div>
</template>

<style scoped>
.graph { position: relative; flex: 1 1 120px; min-height: 96px; overflow: hidden; touch-action: none; }
svg { position: absolute; inset: 0; }
.grid { stroke: var(--hair); }
.grid.nothing { stroke: var(--ink-3); }
.frame { fill: none; stroke: var(--hair-2); }
.scale { font-size: var(--fs-11); fill: var(--ink-3); }
.before { fill: var(--ink); fill-opacity: 0.15; }
.after { fill: none; stroke: var(--ink-2); stroke-width: 1; }
.curve { fill: none; stroke: var(--ink); stroke-width: 2.5; stroke-linejoin: round; }
.swept { fill: var(--swept); fill-opacity: 0.2; stroke: var(--swept); stroke-dasharray: 3 3; }
.handle { cursor: grab; }
.handle rect { fill: var(--sheet); stroke: var(--ink); stroke-width: 1.5; }
.handle text { font-weight: 600; font-size: var(--fs-12); fill: var(--ink); }
.handle.on rect { fill: var(--ink); }
.handle.on text { fill: var(--on-ink); }
.handle.off { opacity: 0.45; }
</style>
