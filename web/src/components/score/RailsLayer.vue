<script setup lang="ts">
/** The routing beside the strips. Point at a rail to read its depth, drag it to change it. */
import Menu from '../popupMenu'
import { computed, nextTick, ref } from 'vue'

import { railLines, type RailLine, type RowBox } from './rails'
import { dashOf, inkOf } from '../../draw/tokens'
import type { DocumentView } from '../../engine/generated/DocumentView'
import { useGesture } from '../../composables/hand/useGesture'
import { useShortcuts } from '../../composables/keys/useShortcuts'
import { share } from '../../engine/told'
import { useDocument } from '../../stores/document'

const props = defineProps<{ view: DocumentView; rows: RowBox[]; outputY: number; height: number }>()
const emit = defineEmits<{ point: [route: number | null]; choose: [unit: number, route: number] }>()
const document = useDocument()
const pointed = ref<number | null>(null)

/** Those that are as they were stay the same, and are not drawn anew. */
const lines = computed<RailLine[]>((before) => share(before, railLines(props.view.rails, props.rows, props.outputY)))
const send = (route: number) => props.view.strips.flatMap((strip) => strip.sends).find((s) => s.route === route)
// what can stand on a rail
const menu = ref<InstanceType<typeof Menu>>()
const inserting = ref<number | null>(null)
const inserts = computed(() => (inserting.value === null ? [] : (send(inserting.value)?.inserts ?? [])).map(({ label, edit }) => ({ label, command: () => void document.edit(edit) })))
const anchor = ref<HTMLElement>()
/** The menu opens at the rail's end: a rail itself is no place a menu can hang from. */
async function insert(route: number) {
  inserting.value = route
  await nextTick()
  if (anchor.value) menu.value?.show({ currentTarget: anchor.value } as unknown as Event)
}
const spot = computed(() => {
  const end = lines.value.find((line) => line.route === inserting.value)?.end
  return { left: `${end?.x ?? 0}px`, top: `${end?.y ?? 0}px` }
})
useShortcuts({
  // the same key plays a note elsewhere
  first: true,
  down(event) {
    if (event.code !== 'KeyI' || event.ctrlKey || event.metaKey || event.altKey || pointed.value === null) return false
    void insert(pointed.value)
    return true
  },
})
const words = computed(() => {
  const line = lines.value.find((l) => l.route === pointed.value)
  const to = line && send(line.route)
  const from = props.view.strips.find((strip) => strip.id === line?.from)
  if (!line || !to || !from) return undefined
  const depth = to.values[0]
  return { x: 90, y: line.end.y, title: `${from.name} to ${to.name}`, pair: to.pair, does: to.kind ?? '', depth: `${depth.number} ${depth.unit}`, on: to.on }
})

function point(line: RailLine | null) {
  if (dragged.value) return
  pointed.value = line?.route ?? null
  emit('point', pointed.value)
}

// what a route does at its target: a dot moves the phase, a ring the frequency, a cross multiplies, a wedge moves the level, a bar
// goes through it
const cross = ({ end: { x, y } }: RailLine) => `M${x - 3.2} ${y - 3.2}l6.4 6.4m0 -6.4l-6.4 6.4`
const bar = ({ end: { x, y } }: RailLine) => `M${x} ${y - 4.5}v9`
const wedge = ({ end: { x, y } }: RailLine) => `M${x - 4} ${y + 4}h8v-8z`


/** Pixels over the whole range. */
const RANGE_PX = 220
const { take, dragged } = useGesture<{ route: number; start: number }>({
  move({ what: { route, start }, y, gesture }, event) {
    const value = send(route)?.values[0]
    if (value) document.drag({ address: value.address, units: [], start, moved: (y - event.clientY) / RANGE_PX, fine: event.shiftKey, gesture })
  },
})
function down(event: PointerEvent, line: RailLine) {
  const value = send(line.route)?.values[0]
  if (!value) return
  emit('choose', line.from, line.route)
  take(event, { route: line.route, start: value.value })
}
/** Double click: type the depth, in the inspector's field of this route. */
async function type(line: RailLine) {
  emit('choose', line.from, line.route)
  await nextTick()
  const field = window.document.querySelector<HTMLElement>(`[data-send="${line.route}"] [role=spinbutton]`)
  field?.focus()
  field?.dispatchEvent(new KeyboardEvent('keydown', { key: 'Enter', bubbles: true }))
}
</script>

<template>
  <svg class="rails" width="84" :height="height" aria-label="Routing">
    <g v-for="line in lines" :key="line.route" v-memo="[line, line.route === pointed]" :style="{ color: inkOf(line.from), opacity: line.on ? 1 : 0.35 }">
      <path :d="line.path" fill="none" class="bridge" :stroke-width="line.widthPx + 4" />
      <path :d="line.path" fill="none" stroke="currentColor" :stroke-width="line.widthPx" :stroke-dasharray="line.on ? undefined : '3 3'" />
      <path v-if="line.widthPx > 2.4 && dashOf(line.from)" :d="line.path" fill="none" class="centre" stroke-width="1.2" :stroke-dasharray="dashOf(line.from)" />
      <template v-if="line.end.radius">
        <circle v-if="line.kind === 'phase'" :cx="line.end.x" :cy="line.end.y" :r="line.end.radius" fill="currentColor" class="end" />
        <circle v-else-if="line.kind === 'frequency'" :cx="line.end.x" :cy="line.end.y" :r="line.end.radius" fill="var(--paper)" stroke="currentColor" stroke-width="1.8" />
        <path v-else-if="line.kind === 'ring'" :d="cross(line)" stroke="currentColor" stroke-width="2" />
        <path v-else-if="line.kind === 'amplitude'" :d="wedge(line)" fill="currentColor" class="end" />
        <path v-else :d="bar(line)" stroke="currentColor" stroke-width="2.6" />
      </template>
      <path v-if="line.arrow" :d="`M${line.end.x - 4} ${line.end.y - 4}l6 4l-6 4z`" fill="currentColor" />
      <path
        :d="line.path" class="grip" :class="{ pointed: line.route === pointed }" :data-route="line.route"
        @pointerenter="point(line)" @pointerleave="point(null)" @pointerdown="down($event, line)" @dblclick="type(line)" @contextmenu.prevent="insert(line.route)"
      />
    </g>
  </svg>
  <span ref="anchor" class="anchor" :style="spot" />
  <Menu ref="menu" :model="inserts" popup />
  <div v-if="words" class="flag" :style="{ left: `${words.x}px`, top: `${words.y - 14}px` }" role="tooltip">
    <b>{{ words.title }}</b> <span v-if="words.pair">{{ words.pair }}</span> <span v-if="words.does">{{ words.does }}</span> <b>{{ words.depth }}</b> <span v-if="!words.on">off</span> <span>I: insert here</span>
  </div>
</template>

<style scoped>
.rails { position: absolute; left: 0; top: 0; overflow: visible; }
.bridge { stroke: var(--paper); }
.centre { stroke: var(--paper); }
.end { stroke: var(--paper); stroke-width: 1.5; }
.grip { fill: none; stroke: transparent; stroke-width: 12; cursor: ns-resize; pointer-events: stroke; touch-action: none; }
.grip.pointed { stroke: currentColor; stroke-opacity: 0.18; }
.flag { position: absolute; z-index: 20; background: var(--ink); color: var(--on-ink); padding: 4px 8px; border-radius: var(--r); white-space: nowrap; pointer-events: none; }
.anchor { position: absolute; width: 1px; height: 1px; }
.flag span { opacity: 0.8; margin: 0 4px; }
</style>
