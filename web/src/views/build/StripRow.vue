<script setup lang="ts">
/** One strip in its row: head, what it puts out, its scale. Drawn anew only when something in it changed. */
import { ref } from 'vue'

import StripHead from '../../components/score/StripHead.vue'
import StripPlot from '../../components/score/StripPlot.vue'
import type { StripBox } from '../../composables/screen/useStripLayout'
import type { Axis } from '../../draw/axis'
import type { StripView } from '../../engine/generated/StripView'
import { useDocument } from '../../stores/document'

defineProps<{ strip: StripView; send: number; box: StripBox; curve?: Float32Array; ghosts: Float32Array[]; axis: Axis; holdS: number; cursorX: number; words: string; told: string; selected: boolean; also: boolean; target: boolean }>()
const emit = defineEmits<{ scrubFrom: [event: PointerEvent]; route: [event: PointerEvent, strip: StripView] }>()
const document = useDocument()
const plot = ref<InstanceType<typeof StripPlot>>()
</script>

<template>
  <div
    v-show="!box.hidden" class="row" role="row" :aria-selected="selected || also" :aria-label="strip.name" :class="{ selected, also, target, grouped: box.grouped }" :data-unit="strip.id"
    :style="{ top: `${box.top}px`, height: `${box.height}px`, gridTemplateColumns: `var(--gutter) var(--head) ${axis.widthPx}px var(--scale)` }"
    @pointerenter="document.lit = strip.id" @pointerleave="document.lit = null"
  >
    <StripHead class="head" role="gridcell" :strip="strip" :selected="selected" @route="emit('route', $event, strip)" />
    <div class="plot" role="gridcell" @pointerdown="document.selectBy($event, strip.id); emit('scrubFrom', $event)" @dblclick="plot?.add($event)">
      <StripPlot ref="plot" :strip="strip" :send="send" :curve="curve" :ghosts="ghosts" :axis="axis" :hold-s="holdS" :height="box.height" :selected="selected" :cursor-x="cursorX" :words="words" :told="told" />
      <div v-if="strip.unheard" class="unheard" data-testid="unheard" @pointerdown.stop>
        <span>Not heard: {{ strip.unheard.why }}</span>
        <button v-if="strip.unheard.mend" type="button" class="link-btn" @click="document.edit(strip.unheard!.mend!.edit)">{{ strip.unheard.mend.label }}</button>
      </div>
    </div>
    <div class="ticks" role="presentation">
      <span v-for="tick in strip.sends[send]?.ticks ?? []" :key="tick.label" :style="{ bottom: `${4 + (box.height - 10) * tick.height - 7}px` }">{{ tick.label }}</span>
    </div>
  </div>
</template>

<style scoped>
.row { position: absolute; left: 0; right: 0; display: grid; }
.row::after { content: ''; position: absolute; left: var(--gutter); right: 0; bottom: 0; height: 1px; background: var(--hair-2); }
.row.grouped .head { border-left: 4px solid var(--ink-3); padding-left: 2px; }
.row.also { background: linear-gradient(var(--select), var(--select)) var(--gutter) 0 no-repeat; }
.row.selected { background: linear-gradient(var(--select), var(--select)) var(--gutter) 0 no-repeat; }
.row.target { outline: 2px solid var(--swept); outline-offset: -2px; }
.head { grid-column: 2; border-right: 1px solid var(--hair-2); }
.plot { grid-column: 3; position: relative; touch-action: none; cursor: crosshair; min-width: 0; }
.ticks { grid-column: 4; position: relative; }
.ticks span { position: absolute; left: 5px; font-size: var(--fs-11); color: var(--ink-3); white-space: nowrap; }
.unheard { position: absolute; left: 12px; top: 50%; transform: translateY(-50%); display: flex; gap: 8px; align-items: center; background: var(--warn-bg); color: var(--warn); padding: 0 8px; border-radius: var(--r); min-height: 24px; cursor: default; }
.unheard .link-btn { color: var(--warn); font-weight: 600; }
</style>
