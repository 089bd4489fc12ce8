<script setup lang="ts">
/** The strips with their rails; routes are drawn by dragging from one strip's number to another strip. */
import { useElementSize } from '@vueuse/core'
import { computed, nextTick, onUnmounted, ref, shallowRef, watch } from 'vue'

import OutputRow from './OutputRow.vue'
import StripMenu from './StripMenu.vue'
import StripRow from './StripRow.vue'
import GroupBar from '../../components/score/GroupBar.vue'
import KeyMarks from '../../components/score/KeyMarks.vue'
import HatchDefs from '../../components/score/HatchDefs.vue'
import RailsLayer from '../../components/score/RailsLayer.vue'
import { useStripLayout } from '../../composables/screen/useStripLayout'
import { useWire, type Onto } from '../../composables/hand/useWire'
import { timeToX, type Axis } from '../../draw/axis'
import { inkOf } from '../../draw/tokens'
import type { Unfolded } from '../../engine/workers'
import type { DocumentView } from '../../engine/generated/DocumentView'
import type { StripView } from '../../engine/generated/StripView'
import { useDocument } from '../../stores/document'
import { useMoving } from '../../stores/moving'

const props = defineProps<{ view: DocumentView; picture?: Unfolded; axis: Axis; cursorS: number }>()
const emit = defineEmits<{ scrubFrom: [event: PointerEvent] }>()
const scrub = (event: PointerEvent) => emit('scrubFrom', event)
const document = useDocument()
const moving = useMoving()
const rows = ref<HTMLElement>()
/** Height of the output's row. */
const OUTPUT = 32

const { height: paneHeight } = useElementSize(() => rows.value?.parentElement)
const layout = useStripLayout(() => props.view, () => paneHeight.value - OUTPUT)
const boxes = computed(() => layout.value.boxes)
const end = computed(() => layout.value.end)
const outputY = computed(() => end.value + OUTPUT / 2)
const cursorX = computed(() => timeToX(props.axis, props.cursorS))
const holdS = computed(() => props.view.audition.hold_s)
const releaseX = computed(() => timeToX(props.axis, holdS.value))

// which send a strip shows: its deepest, or the one pointed at
const pointed = ref<number | null>(null)
function sendShown(strip: StripView): number {
  const at = strip.sends.findIndex((send) => send.route === pointed.value)
  return at >= 0 ? at : (strip.deepest ?? 0)
}
/** What a strip puts out into the send shown: with all that moves that send's depth. */
function curveOf(strip: StripView, picture = props.picture): Float32Array | undefined {
  const curve = picture?.curves.get(strip.id)
  const send = strip.sends[sendShown(strip)]
  const depth = send && picture?.depths.get(send.route)
  return curve && depth ? product(curve, depth) : curve
}
// the same curves give the same one, so that a strip is not drawn anew for it
const products = new WeakMap<Float32Array, { depth: Float32Array; product: Float32Array }>()
function product(curve: Float32Array, depth: Float32Array): Float32Array {
  const known = products.get(curve)
  if (known?.depth === depth) return known.product
  const product = curve.map((value, i) => value * depth[i])
  products.set(curve, { depth, product })
  return product
}
/** What it would put out with the macro that is pointed at at its ends. */
const NO_GHOSTS: Float32Array[] = []
const ghostsOf = (strip: StripView) => (moving.ghosts ? [moving.ghosts.low, moving.ghosts.high].flatMap((picture) => curveOf(strip, picture) ?? []) : NO_GHOSTS)
/** What each strip puts out at the cursor, in words. They follow the picture and the cursor; while a hand moves a value they wait for its picture. */
const words = shallowRef(new Map<number, string>())
function tellWords() {
  clearTimeout(later)
  const { strips } = props.view
  const amplitudes = strips.map((strip) => {
    const curve = curveOf(strip)
    return curve ? curve[Math.max(0, Math.min(curve.length - 1, Math.floor((cursorX.value / props.axis.widthPx) * curve.length)))] : 0
  })
  const answer = document.ask({ ask: 'words', amplitudes, sends: strips.map(sendShown) })
  if (answer.is === 'words') words.value = new Map(strips.map((strip, i) => [strip.id, answer.words[i]]))
}
const PICTURE_COMES_MS = 150
let later: ReturnType<typeof setTimeout> | undefined
watch([() => props.picture, cursorX, pointed], tellWords, { immediate: true })
watch(() => document.change, () => {
  clearTimeout(later)
  later = setTimeout(tellWords, PICTURE_COMES_MS)
})
onUnmounted(() => clearTimeout(later))

/** What each puts out in words, of the last exact picture. */
const told = computed<Map<number, string>>((before) => (props.picture?.told.curves.size ? props.picture.told.curves : (before ?? new Map())))
/** Nothing was done to it yet: a few words on how to begin. */
const isNew = computed(() => props.view.strips.length === 1 && !props.view.undo && !props.view.redo && props.view.sources.length === 0 && !props.view.note)

// drawing a route
function under(x: number, y: number): Onto {
  if (x < 0 || x > (rows.value?.clientWidth ?? 0)) return null
  const row = boxes.value.findIndex((r) => y >= r.top && y < r.top + r.height)
  if (row >= 0) return props.view.strips[row].id
  return y >= end.value ? 'output' : null
}
const { wire, hint, begin: beginWire } = useWire(rows, under)
/** Where the wire under way begins: the strip may have been drawn anew since. */
const wireTop = computed(() => (boxes.value[props.view.strips.findIndex((strip) => strip.id === wire.value?.from.id)]?.top ?? 0) + 14)

const menu = ref<InstanceType<typeof StripMenu>>()
/** In a text that is typed the right button is the browser's. */
function menuOf(event: MouseEvent, id: number | null) {
  if (event.target instanceof HTMLInputElement) return
  event.preventDefault()
  void menu.value?.show(event, id)
}

/** What can be pressed in the head of a strip, from left to right. */
const parts = (id: number | null) => [...(rows.value?.querySelectorAll<HTMLElement>(`[data-unit='${id}'] .head button`) ?? [])]
/** Along the parts of a head, to the same of its neighbours, and back to the list. */
function along(event: KeyboardEvent) {
  const own = event.target instanceof HTMLElement ? event.target.closest<HTMLElement>('[data-unit]') : null
  if (!own || event.target instanceof HTMLInputElement) return
  const id = Number(own.dataset.unit)
  const all = parts(id)
  const at = all.indexOf(event.target as HTMLElement)
  if (at < 0) return
  const strips = props.view.strips.map((strip) => strip.id)
  const list = event.currentTarget as HTMLElement
  if (event.key === 'ArrowRight') all[at + 1]?.focus()
  else if (event.key === 'ArrowLeft') (all[at - 1] ?? list).focus()
  else if (event.key === 'ArrowDown' || event.key === 'ArrowUp') {
    const next = strips[strips.indexOf(id) + (event.key === 'ArrowDown' ? 1 : -1)]
    if (next === undefined) return
    document.select(next)
    void nextTick(() => parts(next)[at]?.focus())
  } else return
  event.preventDefault()
  event.stopPropagation()
}
function keys(event: KeyboardEvent) {
  const at = props.view.strips.findIndex((strip) => strip.id === document.selected)
  if (event.target !== event.currentTarget) return along(event)
  if (event.key === 'ArrowDown' || event.key === 'ArrowUp') {
    const next = props.view.strips[Math.max(0, Math.min(props.view.strips.length - 1, at + (event.key === 'ArrowDown' ? 1 : -1)))]
    if (next && event.shiftKey) document.select(next.id, true)
    else if (next) document.select(next.id)
  } else if (event.key === 'ArrowRight') parts(document.selected)[0]?.focus()
  else return
  event.preventDefault()
}
// a selected strip is never out of sight
watch(() => document.selected, () => {
  const at = props.view.strips.findIndex((strip) => strip.id === document.selected)
  const pane = rows.value?.parentElement
  if (at < 0 || !pane) return
  const { top, height } = boxes.value[at]
  if (top < pane.scrollTop) pane.scrollTop = top
  else if (top + height > pane.scrollTop + pane.clientHeight) pane.scrollTop = top + height - pane.clientHeight
}, { flush: 'post' })
</script>

<template>
  <div class="scroll" @pointerdown.self="document.select(null)">
    <HatchDefs />
    <div ref="rows" class="rows" :style="{ height: `${end}px` }">
     <div class="list" tabindex="0" role="grid" aria-multiselectable="true" aria-label="Strips" @keydown="keys" @contextmenu.self="menuOf($event, document.selected)" @pointerdown.self="document.select(null)">
      <GroupBar v-for="group in view.groups" :key="`g${group.id}`" :group="group" :style="{ top: `${layout.bars[group.id] ?? 0}px` }" />
      <StripRow
        v-for="(strip, i) in view.strips" :key="strip.id" :strip="strip" :send="sendShown(strip)" :box="boxes[i]" :curve="curveOf(strip)" :ghosts="ghostsOf(strip)" :axis="axis" :hold-s="holdS"
        :selected="strip.id === document.selected" :also="document.others.includes(strip.id)" :target="wire?.over === strip.id" :cursor-x="cursorX" :words="words.get(strip.id) ?? ''" :told="told.get(strip.id) ?? ''"
        @scrub-from="scrub" @route="beginWire" @contextmenu="menuOf($event, strip.id)"
      />
     </div>
      <RailsLayer :view="view" :rows="boxes" :output-y="outputY" :height="end + OUTPUT" @point="pointed = $event" @choose="(unit) => document.select(unit)" />
      <KeyMarks :axis="axis" :height="end" :cursor-x="cursorX" :release-x="releaseX" :note-y="11" />
      <svg v-if="wire && wire.over !== null" class="wire">
        <path :d="`M92 ${wireTop}L${wire.x} ${wire.y}`" :style="{ stroke: inkOf(wire.from.id) }" />
      </svg>
      <div v-if="hint && wire" class="hint" :style="{ left: `${wire.x + 14}px`, top: `${wire.y + 10}px` }">{{ hint }}</div>
    </div>
    <StripMenu ref="menu" />
    <OutputRow :view="view" :target="wire?.over === 'output'" />
    <ul v-if="isNew" class="hints" data-testid="hints">
      <li><kbd>Space</kbd> plays the note; <kbd>Z</kbd> to <kbd>M</kbd> play the keys</li>
      <li><b>+ Modulator</b> makes it brighter; or type a strip below, such as <code>sine x2 &gt; 1 1rad</code></li>
      <li>The right button on any value says what could move it</li>
    </ul>
  </div>
</template>

<style scoped>
.scroll { overflow-y: auto; overflow-x: hidden; min-height: 0; scrollbar-width: thin; position: relative; background: linear-gradient(var(--paper), var(--paper)) 0 0 / var(--gutter) 100% no-repeat; }
.rows { position: relative; user-select: none; }
.list { position: absolute; inset: 0; outline-offset: -2px; }
.hints { margin: 12px 0 0 calc(var(--gutter) + 8px); padding: 0 0 0 16px; color: var(--ink-3); line-height: 22px; }
.hints kbd, .hints code { font: inherit; border: 1px solid var(--hair-2); border-radius: var(--r); padding: 0 4px; color: var(--ink-2); }
.wire { position: absolute; inset: 0; width: 100%; height: 100%; pointer-events: none; z-index: 25; }
.wire path { stroke-width: 2.5; fill: none; stroke-dasharray: 6 4; }
.hint { position: absolute; z-index: 26; background: var(--ink); color: var(--on-ink); padding: 3px 8px; border-radius: var(--r); white-space: nowrap; pointer-events: none; }
</style>
