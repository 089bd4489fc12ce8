<script setup lang="ts">
import { computed } from 'vue'

import { beatTicks, ticks, timeToX, type Axis } from '../../draw/axis'
import type { AuditionView } from '../../engine/generated/AuditionView'

const props = defineProps<{ axis: Axis; cursorS: number; audition: AuditionView; sources?: boolean; beatS?: number }>()
/** Bars and beats where a phrase is shown, seconds else. */
const marks = computed(() => (props.beatS ? beatTicks(props.axis, props.beatS) : ticks(props.axis)))
/** Half of the cursor's plate, and of a mark's words at the most, in pixels. */
const PLATE_PX = 24
const MARK_PX = 20
const plateX = computed(() => Math.max(PLATE_PX, Math.min(props.axis.widthPx - PLATE_PX, cursorX.value)))
/** What is written beside the cursor, not under it. */
const isFree = (x: number) => Math.abs((x || MARK_PX / 2) - plateX.value) > PLATE_PX + MARK_PX
const holdX = computed(() => timeToX(props.axis, props.audition.hold_s))
const endX = computed(() => timeToX(props.axis, props.audition.end_s))
const cursorX = computed(() => timeToX(props.axis, props.cursorS))
const words = computed(() => (props.cursorS < 1 ? `${(props.cursorS * 1000).toFixed(0)} ms` : `${props.cursorS.toFixed(2)} s`))
</script>

<template>
  <div class="ruler" title="Drag: the cursor. Wheel: more or less time" role="slider" aria-label="Time cursor" :aria-valuenow="cursorS" :aria-valuetext="words" :aria-valuemin="0" :aria-valuemax="axis.windowS">
    <span v-if="sources" class="caption">Sources and what they move</span><template v-else><span class="caption">Routing</span><span class="caption strips">Strips <span class="muted" title="What moves stands above what it moves">modulators above</span></span></template>
    <svg class="marks" :width="axis.widthPx + 40" height="26">
      <text v-for="mark in marks.filter(({ x }) => isFree(x))" :key="mark.timeS" :x="Math.max(mark.x, 3)" y="12" :text-anchor="mark.x ? 'middle' : 'start'">{{ mark.label }}</text>
      <path v-for="mark in marks" :key="`t${mark.timeS}`" :d="`M${mark.x} 16v4`" class="tick" />
      <path :d="`M0 23H${Math.min(holdX, axis.widthPx)}`" class="hold" />
      <path :d="`M${holdX} 23H${Math.min(endX, axis.widthPx)}M${Math.min(endX, axis.widthPx)} 20v6`" class="tail" />
      <g :transform="`translate(${plateX} 0)`">
        <rect x="-24" y="0" width="48" height="17" rx="2" class="plate" /><text y="12" text-anchor="middle" class="cursor" data-testid="cursor">{{ words }}</text>
      </g>
    </svg>
  </div>
</template>

<style scoped>
.ruler { position: relative; height: var(--ruler); border-bottom: 1px solid var(--hair-2); cursor: ew-resize; touch-action: none; background: linear-gradient(var(--paper), var(--paper)) 0 0 / var(--side) 100% no-repeat; user-select: none; }
.caption { position: absolute; left: 10px; top: 6px; font-weight: 600; }
.strips { left: 92px; width: 236px; display: flex; justify-content: space-between; }
.strips .muted { font-weight: 400; font-size: var(--fs-11); }
.marks { position: absolute; left: var(--side); top: 0; }
text { font-size: var(--fs-11); fill: var(--ink-3); }
.tick { stroke: var(--ink-3); }
.hold { stroke: var(--ink); stroke-width: 4; }
.tail { stroke: var(--ink); stroke-width: 1.5; }
.plate { fill: var(--ink); }
text.cursor { fill: var(--on-ink); font-weight: 600; }
</style>
