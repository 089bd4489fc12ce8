<script setup lang="ts">
/** What an operator really puts out over the life of the note, and its envelope's points when selected. */
import { computed, ref } from 'vue'

import { useGesture } from '../../composables/hand/useGesture'
import { timeToX, xToTime, type Axis } from '../../draw/axis'
import { coursePath } from '../../draw/line'
import { hatchOf, inkOf } from '../../draw/tokens'
import type { Handle } from '../../engine/generated/Handle'
import type { StripView } from '../../engine/generated/StripView'
import { useDocument } from '../../stores/document'

const props = defineProps<{ strip: StripView; send: number; curve?: Float32Array; ghosts?: Float32Array[]; axis: Axis; holdS: number; height: number; selected: boolean; cursorX: number; words: string; told: string }>()
const document = useDocument()

const svg = ref<SVGSVGElement>()
const FOOT = 4
const HEAD = 6
const shown = computed(() => props.strip.sends[props.send])
const full = computed(() => props.height - FOOT - HEAD)
const scale = computed(() => shown.value?.height ?? 0)
const y = (amplitude: number) => props.height - FOOT - full.value * Math.min(1, amplitude * scale.value)

const course = (curve: Float32Array | undefined) => (curve ? coursePath(curve, props.axis.widthPx, y) : '')
const line = computed(() => course(props.curve))
const area = computed(() => (line.value ? `${line.value}V${props.height - FOOT}H0Z` : ''))
const atCursor = computed(() => {
  const curve = props.curve
  if (!curve) return 0
  return curve[Math.max(0, Math.min(curve.length - 1, Math.floor((props.cursorX / props.axis.widthPx) * curve.length)))]
})
const labelLeft = computed(() => props.cursorX > props.axis.widthPx - 70)
const labelY = computed(() => {
  const at = y(atCursor.value)
  return at < 22 ? Math.min(props.height - 6, at + 16) : at - 6
})

// envelope points are drawn at the velocity's height, so that they lie on the curve
const peak = computed(() => Math.max(0.05, ...(props.curve ?? [1])))
// where none are shown, none are under a hand
const handles = computed(() => (props.strip.handles.length ? document.underHand('handles', props.strip.id)?.handles : undefined) ?? props.strip.handles)
const points = computed(() =>
  handles.value
    .filter((handle) => handle.time_s <= props.axis.windowS)
    .map((handle) => ({ handle, x: timeToX(props.axis, handle.time_s), y: y(handle.level * peak.value) })),
)
const cutX = computed(() => (props.strip.cut ? timeToX(props.axis, props.strip.cut.time_s) : undefined))

const { take } = useGesture<{ handle: Handle; box: DOMRect }>({
  move({ what: { handle: { at, bend }, box }, gesture }, event) {
    const { time_s, level } = place(event, box)
    document.byHand({ of: 'handles', unit: props.strip.id }, { ask: 'drag_handle', unit: props.strip.id, at, bend, free: event.shiftKey, time_s, level, gesture })
  },
})
function down(event: PointerEvent, handle: Handle) {
  if (event.altKey) return remove(handle)
  const box = svg.value?.getBoundingClientRect()
  if (box) take(event, { handle, box })
}
/** Time and level under the pointer. */
function place(event: MouseEvent, box: DOMRect) {
  const level = (props.height - FOOT - (event.clientY - box.top)) / full.value / Math.max(1e-3, scale.value * peak.value)
  return { time_s: xToTime(props.axis, event.clientX - box.left), level: Math.max(0, Math.min(1, level)) }
}
/** Double click on the strip adds a point; on a point it takes it out, as does Alt and a click. */
function add(event: MouseEvent) {
  if (props.selected && shown.value && svg.value) document.edit({ do: 'add_point', unit: props.strip.id, ...place(event, svg.value.getBoundingClientRect()) })
}
function remove(handle: Handle) {
  if (!handle.bend) document.edit({ do: 'remove_point', unit: props.strip.id, at: handle.at })
}
// the strip's area has the pointer while it scrubs, so the double click comes to it
defineExpose({ add })
</script>

<template>
  <svg ref="svg" class="plot" :width="axis.widthPx" :height="height" :style="{ color: inkOf(strip.id) }" role="img" :aria-label="`Output of ${strip.name}. ${told}`">
    <line v-for="tick in shown?.ticks ?? []" :key="tick.label" x1="0" :x2="axis.widthPx" :y1="height - FOOT - full * tick.height" :y2="height - FOOT - full * tick.height" class="grid" />
    <g :opacity="strip.unheard ? 0.35 : 1">
      <path :d="area" fill="currentColor" class="fill" />
      <path :d="area" :fill="`url(#hatch${hatchOf(strip.id)}-${((strip.id - 1) % 6) + 1})`" class="hatch" />
      <path :d="line" fill="none" stroke="currentColor" :stroke-width="selected ? 2 : 1.6" stroke-linejoin="round" data-testid="curve" />
      <path v-for="(ghost, n) in ghosts" :key="`g${n}`" :d="course(ghost)" class="ghost" :class="{ high: n === 1 }" data-testid="ghost" />
      <path :d="`M0 ${height - FOOT + 0.5}H${axis.widthPx}`" stroke="currentColor" stroke-width="0.8" />
    </g>
    <template v-if="selected && shown">
      <g
        v-for="point in points" :key="`${point.handle.at}${point.handle.bend}`" class="point" :data-handle="`${point.handle.at}${point.handle.bend ? '-bend' : ''}`" :class="{ late: point.handle.late, held: point.handle.held }"
        @pointerdown.stop="down($event, point.handle)" @dblclick.stop="remove(point.handle)"
      >
        <title>{{ point.handle.name }}{{ point.handle.late ? ', after the release' : '' }}{{ point.handle.bend ? '' : ' (double click takes it out)' }}</title>
        <rect :x="point.x - 12" :y="point.y - 12" width="24" height="24" fill="transparent" />
        <circle v-if="point.handle.bend" :cx="point.x" :cy="point.y" r="2.6" fill="currentColor" />
        <rect v-else :x="point.x - 3.5" :y="point.y - 3.5" width="7" height="7" class="square" />
      </g>
    </template>
    <g v-if="cutX !== undefined && strip.cut && cutX < axis.widthPx" class="cut" data-testid="cut">
      <title>{{ strip.cut.words }}</title>
      <rect :x="cutX" y="3" :width="axis.widthPx - cutX" :height="height - 3 - FOOT" class="veil" />
      <path :d="`M${cutX} 3V${height - FOOT}`" />
      <text v-if="axis.widthPx - cutX > 120" :x="cutX + 5" y="13">{{ strip.cut.words }}</text>
    </g>
    <template v-if="curve && shown && !strip.unheard">
      <circle :cx="cursorX" :cy="y(atCursor)" r="3.2" class="mark" />
      <text :x="cursorX + (labelLeft ? -8 : 8)" :y="labelY" :text-anchor="labelLeft ? 'end' : 'start'" class="value" data-testid="at-cursor">{{ words }}</text>
    </template>
  </svg>
</template>

<style scoped>
.ghost { fill: none; stroke: var(--ink); stroke-width: 1.2; stroke-dasharray: 2 3; }
.ghost.high { stroke-dasharray: none; }
.plot { display: block; overflow: visible; }
.grid { stroke: var(--hair); }
.fill { fill-opacity: var(--fill); }
.hatch { opacity: var(--hatch); }
.point { cursor: grab; touch-action: none; }
.held .square { fill: var(--ink); }
.cut { pointer-events: none; }
.cut path { stroke: var(--warn); stroke-width: 1.5; stroke-dasharray: 2 2; }
.cut text { fill: var(--warn); font-size: var(--fs-11); }
.veil { fill: var(--sheet); opacity: 0.72; }
.late { opacity: 0.35; }
.square { fill: var(--sheet); stroke: var(--ink); stroke-width: 1.5; }
.mark { fill: var(--sheet); stroke: currentColor; stroke-width: 1.8; pointer-events: none; }
.value { fill: currentColor; font-weight: 600; font-size: var(--fs-12); paint-order: stroke; stroke: var(--sheet); stroke-width: 4px; pointer-events: none; }
</style>
