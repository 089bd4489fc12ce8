<script setup lang="ts">
/** The spectrum at the cursor, turned beside the result: measured, by theory, a filter's response, and what plays now. */
import { computed, ref, shallowRef, watch } from 'vue'

import FrequencyScale from './FrequencyScale.vue'
import LiveSpectrum from './LiveSpectrum.vue'
import { WHOLE } from '../../draw/axis'
import { useLatest } from '../../composables/heard/useLatest'
import { dbToX, hzToY, PLOT_LEFT_PX, PLOT_PX, plotHeight, rowsPath, SIDE_PX, SPAN_DB, spread, TOP_PX } from '../../draw/result'
import { inkOf } from '../../draw/tokens'
import { workers, Superseded, type Spectrum } from '../../engine/workers'
import type { ExplainedView } from '../../engine/generated/ExplainedView'
import type { ExplanationView } from '../../engine/generated/ExplanationView'
import { useDocument } from '../../stores/document'
import { useSettings } from '../../stores/settings'

const props = defineProps<{ ready: boolean; version: number; cursorS: number; paneHeight: number; /** All frequencies, whatever part of them is seen. */ whole?: boolean; /** What is drawn. */ shows: 'spectrum' | 'stereo' }>()
const emit = defineEmits<{ explained: [explanation: ExplanationView]; seen: [spectrum: Spectrum] }>()
const document = useDocument()
const settings = useSettings()
const top = TOP_PX
const height = computed(() => plotHeight(props.paneHeight))
const span = computed(() => (props.whole ? undefined : settings.span))
const y = (hz: number) => hzToY(height.value, hz, span.value)

// asked for anew whenever cursor or sound change
const ROWS = 480
const spectrum = shallowRef<Spectrum>()
/** The selected strip, if it is a filter: its response is drawn too. */
const filter = computed(() => (document.selectedStrip?.kind === 'filter' ? document.selectedStrip.id : null))
const look = useLatest<undefined>(async () => {
  if (!props.ready) return
  try {
    spectrum.value = await workers().spectrum(props.cursorS, ROWS, span.value ?? WHOLE, filter.value)
    emit('explained', spectrum.value.explanation)
    emit('seen', spectrum.value)
  } catch (error) {
    // the picture itself says what is wrong
    if (!(error instanceof Superseded)) spectrum.value = undefined
  }
})
watch(() => [props.cursorS, props.version, filter.value, span.value], () => look(undefined), { immediate: true })
const outline = computed(() => (spectrum.value ? rowsPath(spectrum.value.rowsDb, height.value, dbToX) : ''))
/** The strongest partials with who makes them: so many as have room, each beside its line or led there. */
const LABEL_PX = 14
const MOST_LABELS = 10
/** Lines so near to each other are labelled once. */
const APART_PX = 2.5
/** What is so much weaker than the strongest is not named. */
const NAMED_DB = 50
const labels = computed(() => {
  const all = (spectrum.value?.partials ?? []).map((partial) => ({ ...partial, y: y(partial.hz) })).filter((partial) => partial.y > top && partial.y < top + height.value)
  const most = Math.min(MOST_LABELS, Math.floor(height.value / LABEL_PX))
  const chosen: typeof all = []
  for (const partial of all) {
    if (chosen.length < most && partial.db > all[0].db - NAMED_DB && chosen.every((other) => Math.abs(other.y - partial.y) > APART_PX)) chosen.push(partial)
  }
  chosen.sort((a, b) => a.y - b.y)
  const places = spread(chosen.map((partial) => partial.y), LABEL_PX, top + LABEL_PX / 2, top + height.value - LABEL_PX / 2)
  return chosen.map((partial, i) => ({ ...partial, at: places[i] }))
})
// what theory makes of it: one line for each partial in the colour of the operator that causes it
const theory = computed(() => (spectrum.value?.explanation.partials ?? []).flatMap((partial) => {
  const at = y(partial.hz)
  return at > top && at < top + height.value && partial.predicted_db > -SPAN_DB ? [{ ...partial, y: at }] : []
}))
const isLit = (units: number[]) => document.lit === null || units.includes(document.lit)
const pointed = ref<{ y: number; partial: ExplainedView }>()
/** The partial nearest to the pointer. */
function pointAt(event: PointerEvent) {
  const box = (event.currentTarget as Element).getBoundingClientRect()
  const pointerY = event.clientY - box.top
  const near = theory.value.filter((partial) => Math.abs(partial.y - pointerY) < 9).sort((a, b) => Math.abs(a.y - pointerY) - Math.abs(b.y - pointerY) || b.predicted_db - a.predicted_db)[0]
  pointed.value = near && { y: near.y, partial: near }
}
// the response of the selected filter, 0 dB where the scale has it
const RESPONSE_TOP_DB = 30
const response = computed(() => rowsPath(spectrum.value?.responseDb ?? [], height.value, (db) => dbToX(db - RESPONSE_TOP_DB)))
/** Where what stands: rows between left and right, the strong ones darker. */
const FAINT_DB = -72
const places = computed(() => {
  const of = spectrum.value
  if (props.shows !== 'stereo' || !of) return []
  const step = height.value / of.rowsDb.length
  const groups = [0.2, 0.45, 0.7, 1].map((opacity) => ({ opacity, path: '' }))
  of.rowsDb.forEach((db, row) => {
    if (db < FAINT_DB) return
    const group = groups[Math.max(0, Math.min(3, Math.floor((db - FAINT_DB) / 18)))]
    group.path += `M${(placeToX(of.rowsPlace[row]) - 4).toFixed(1)} ${(top + height.value - (row + 0.5) * step).toFixed(1)}h8`
  })
  return groups
})
/** Room for the labels. */
const LABELS_PX = PLOT_LEFT_PX - 18
const placeToX = (place: number) => (PLOT_PX / 2) * (1 + place * 0.94)
</script>

<template>
  <div>
    <svg class="spectrum" :width="SIDE_PX" :height="paneHeight" aria-label="Spectrum at the cursor" @pointermove="pointAt" @pointerleave="pointed = undefined">
      <rect :width="SIDE_PX" :height="paneHeight" fill="transparent" />
      <g v-if="shows === 'stereo'" :transform="`translate(${PLOT_LEFT_PX} 0)`" data-testid="stereo">
        <template v-for="[place, word] in [[-1, 'left'], [0, 'middle'], [1, 'right']] as const" :key="word">
          <path :d="`M${placeToX(place)} ${top}V${top + height}`" class="grid" />
          <text :x="placeToX(place)" :y="top - 5" text-anchor="middle" class="scale">{{ word }}</text>
        </template>
        <path v-for="group in places" :key="group.opacity" :d="group.path" class="place" :style="{ opacity: group.opacity }" />
        <path :d="`M${PLOT_PX + 0.5} ${top}V${top + height}`" class="axis" />
      </g>
      <g v-else :transform="`translate(${PLOT_LEFT_PX} 0)`">
        <template v-for="db in [-60, -40, -20]" :key="db">
          <path :d="`M${dbToX(db)} ${top}V${top + height}`" class="grid" />
          <text :x="dbToX(db)" :y="top - 5" text-anchor="middle" class="scale">−{{ -db }}</text>
        </template>
        <text :x="PLOT_PX" :y="top - 5" text-anchor="end" class="scale">dB</text>
        <path v-if="outline" :d="`${outline}L${PLOT_PX} ${top}V${top + height}Z`" class="area" />
        <path v-if="outline" :d="outline" class="outline" />
        <path :d="`M${PLOT_PX + 0.5} ${top}V${top + height}`" class="axis" />
        <g v-for="partial in theory" :key="`${partial.hz} ${partial.words}`" class="theory" :style="{ color: inkOf(partial.by), opacity: isLit(partial.units) ? 1 : 0.12 }" data-testid="theory" :data-by="partial.by">
          <path :d="`M${PLOT_PX} ${partial.y}H${dbToX(partial.predicted_db)}`" :stroke-dasharray="partial.folded ? '3 2' : undefined" />
          <path v-if="partial.folded" :d="`M${dbToX(partial.predicted_db) - 1} ${partial.y - 3}l-4 3l4 3`" />
          <circle v-else :cx="dbToX(partial.predicted_db)" :cy="partial.y" r="2.2" />
        </g>
        <LiveSpectrum :height="height" />
        <text v-if="response" :x="dbToX(-RESPONSE_TOP_DB)" :y="top + height - 4" text-anchor="middle" class="scale" :style="{ fill: inkOf(filter ?? 0) }">filter 0 dB</text>
        <path v-if="response" :d="response" class="response" :style="{ color: inkOf(filter ?? 0) }" data-testid="response" />
        <path v-for="(partial, at) in labels" :key="at" :d="`M${-PLOT_LEFT_PX + LABELS_PX + 7} ${partial.at}h3L-4 ${partial.y}H${Math.max(0, dbToX(partial.db) - 4)}`" class="leader" :style="{ color: inkOf(partial.by ?? 0) }" />
      </g>
      <FrequencyScale :height="height" :span="span" />
    </svg>
    <div v-if="shows === 'spectrum'" class="labels" :style="{ width: `${LABELS_PX}px` }">
      <!-- by place: what is measured is a little elsewhere each time -->
      <span v-for="(partial, at) in labels" :key="at" class="partial" :style="{ top: `${partial.at - LABEL_PX / 2}px`, color: partial.by === null ? undefined : inkOf(partial.by) }" data-testid="partial"><b>{{ partial.made_by }}</b> {{ partial.words }}</span>
    </div>
    <div v-if="pointed" class="why" role="tooltip" data-testid="why" :style="{ top: `${Math.max(2, Math.min(pointed.y - 14, paneHeight - 62))}px`, color: inkOf(pointed.partial.by) }">
      <b>{{ pointed.partial.words }}</b>
      <span>{{ pointed.partial.figures }}</span>
      <span v-if="pointed.partial.meeting > 1">{{ pointed.partial.meeting }} combinations meet here; this is the strongest</span>
      <span v-if="pointed.partial.folded">{{ pointed.partial.mirrored_why }}</span>
    </div>
  </div>
</template>

<style scoped>
.spectrum { position: absolute; left: 0; top: 0; }
.grid { stroke: var(--hair); }
.axis { stroke: var(--ink); stroke-width: 1.5; }
.scale { font-size: var(--fs-11); fill: var(--ink-3); }
.area { fill: var(--ink); fill-opacity: 0.14; }
.outline { fill: none; stroke: var(--ink-2); stroke-width: 1; }
.theory path { stroke: currentColor; stroke-width: 1.3; fill: none; }
.theory circle { fill: var(--sheet); stroke: currentColor; stroke-width: 1.3; }
.place { stroke: var(--ink); stroke-width: 1.6; }
.response { fill: none; stroke: currentColor; stroke-width: 1.8; stroke-dasharray: 5 2; }
.why { position: absolute; left: calc(var(--side) + 2px); z-index: 30; display: grid; padding: 4px 9px; background: var(--sheet); border: 1px solid currentColor; border-radius: var(--r); pointer-events: none; white-space: nowrap; }
.why span { color: var(--ink-2); font-size: var(--fs-11); }
.leader { fill: none; stroke: currentColor; stroke-width: 0.8; opacity: 0.7; }
.labels { position: absolute; left: 4px; top: 0; pointer-events: none; }
.partial { position: absolute; right: 0; max-width: 100%; display: flex; gap: 4px; font-size: var(--fs-11); line-height: 14px; white-space: nowrap; color: var(--ink-2); }
.partial b { font-weight: 600; overflow: hidden; text-overflow: ellipsis; min-width: 0; }
</style>
