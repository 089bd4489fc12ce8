<script setup lang="ts">
/** A drawn cycle: points are dragged, bent, added, taken out, snapped to a grid, or drawn freehand. */
import { computed, ref } from 'vue'

import Popover from '../../components/OwnPopover.vue'
import ValueField from '../../components/field/ValueField.vue'
import { useGesture } from '../../composables/hand/useGesture'
import type { ReadyView } from '../../engine/generated/ReadyView'
import type { ShapeView } from '../../engine/generated/ShapeView'
import type { Turn } from '../../engine/generated/Turn'
import { useDocument } from '../../stores/document'

const props = defineProps<{ source: number; shape: ShapeView }>()
const document = useDocument()
const shape = computed(() => document.underHand('shape', props.source)?.shape ?? props.shape)
const svg = ref<SVGSVGElement>()
/** The drawing's own units; it is stretched to the room there is. */
const W = 272
const H = 116
const PAD = 7
/** Columns and rows points snap to; none for free. */
const GRIDS = ['free', '4 × 4', '8 × 4', '6 × 6', '8 × 8', '12 × 8', '16 × 8', '24 × 12', '32 × 16']
const grid = ref('16 × 8')
const snap = computed(() => grid.value !== 'free')
const columns = computed(() => parseInt(grid.value))
const rows = computed(() => parseInt(grid.value.split('× ')[1]))
const drawing = ref(false)
const chosen = ref(0)
const x = (at: number) => PAD + at * (W - 2 * PAD)
const y = (level: number) => H - PAD - level * (H - 2 * PAD)
const line = computed(() => shape.value.picture.map((level, i, all) => `${i ? 'L' : 'M'}${x(i / (all.length - 1)).toFixed(1)} ${y(level).toFixed(1)}`).join(''))
/** Straight where points jump, else as it bends. */
const exact = computed(() => {
  const { points, picture } = shape.value
  const jumps = points.some((point, i) => i > 0 && point.at === points[i - 1].at)
  if (!jumps) return line.value
  return points.map((point, i) => {
    const before = points[i - 1]
    if (!before || point.at === before.at || point.curve === 0) return `${i ? 'L' : 'M'}${x(point.at)} ${y(point.level)}`
    const last = picture.length - 1
    const between = picture.map((level, n) => ({ at: n / last, level })).filter(({ at }) => at > before.at && at < point.at)
    return [...between, point].map(({ at, level }) => `L${x(at)} ${y(level)}`).join('')
  }).join('')
})
const bends = computed(() => shape.value.points.flatMap((point, i) => {
  const before = shape.value.points[i - 1]
  if (!before || point.at - before.at < 0.02 || point.level === before.level) return []
  const at = (before.at + point.at) / 2
  const { picture } = shape.value
  return [{ i, x: x(at), y: y(picture[Math.round(at * (picture.length - 1))]) }]
}))
const near = (value: number, parts: number) => Math.round(value * parts) / parts
function place(event: MouseEvent) {
  const box = svg.value!.getBoundingClientRect()
  const at = ((event.clientX - box.left) / box.width * W - PAD) / (W - 2 * PAD)
  const level = 1 - ((event.clientY - box.top) / box.height * H - PAD) / (H - 2 * PAD)
  const free = !snap.value || event.shiftKey
  return { at: free ? at : near(at, columns.value), level: free ? level : near(level, rows.value) }
}

const { take: takePoint } = useGesture<number>({
  move({ what, gesture }, event) {
    document.byHand({ of: 'shape', source: props.source }, { ask: 'edit', edit: { do: 'move_shape_point', source: props.source, point: what, ...place(event) }, units: [], gesture })
  },
})
const { take: takeBend } = useGesture<{ i: number; start: number }>({
  move({ what: { i, start }, y: from, gesture }, event) {
    const [before, point] = [shape.value.points[i - 1], shape.value.points[i]]
    const up = (from - event.clientY) / 60 * (point.level > before.level ? 1 : -1)
    document.byHand({ of: 'shape', source: props.source }, { ask: 'edit', edit: { do: 'set_value', address: { param: 'shape.curve', id: props.source, point: i }, value: Math.max(-1, Math.min(1, Math.round((start + up) * 100) / 100)) }, units: [], gesture })
  },
})
// freehand: what was passed over takes the level it was passed at
let levels: number[] = []
let last: { at: number; level: number } | undefined
const CELLS = 160
const { take: takeInk } = useGesture<null>({
  slackPx: 0,
  move({ gesture }, event) {
    const box = svg.value!.getBoundingClientRect()
    const at = Math.max(0, Math.min(1, ((event.clientX - box.left) / box.width * W - PAD) / (W - 2 * PAD)))
    const level = Math.max(0, Math.min(1, 1 - ((event.clientY - box.top) / box.height * H - PAD) / (H - 2 * PAD)))
    const from = last ?? { at, level }
    const [a, b] = [Math.round(from.at * CELLS), Math.round(at * CELLS)]
    for (let i = Math.min(a, b); i <= Math.max(a, b); i++) levels[i] = b === a ? level : from.level + (level - from.level) * ((i - a) / (b - a))
    last = { at, level }
    document.byHand({ of: 'shape', source: props.source }, { ask: 'draw_shape', source: props.source, levels, gesture })
  },
  end: () => (last = undefined),
})
function down(event: PointerEvent) {
  if (!drawing.value) return
  const picture = shape.value.picture
  levels = Array.from({ length: CELLS + 1 }, (_, i) => picture[Math.round((i / CELLS) * (picture.length - 1))])
  takeInk(event, null)
}
function grab(event: PointerEvent, i: number) {
  chosen.value = i
  if (event.altKey) return remove(i)
  takePoint(event, i)
}
function add(event: MouseEvent) {
  if (!drawing.value) document.edit({ do: 'add_shape_point', source: props.source, ...place(event) })
}
function remove(i: number) {
  document.edit({ do: 'remove_shape_point', source: props.source, at: i })
  chosen.value = Math.max(0, i - 1)
}
/** A point half way to the next one; its fields move it. */
function addAfter() {
  const { points, picture } = shape.value
  const i = Math.min(chosen.value, points.length - 2)
  const at = (points[i].at + points[i + 1].at) / 2
  if (!document.edit({ do: 'add_shape_point', source: props.source, at, level: picture[Math.round(at * (picture.length - 1))] })) chosen.value = i + 1
}
const turn = (how: Turn) => document.edit({ do: 'turn_shape', source: props.source, how })

const shapes = ref<InstanceType<typeof Popover>>()
const ready = ref<ReadyView[]>([])
function openShapes(event: Event) {
  const answer = document.ask({ ask: 'ready_shapes' })
  if (answer.is === 'shapes') ready.value = answer.list
  shapes.value?.toggle(event)
}
const small = (picture: number[]) => `M${picture.map((level, i) => `${((i / (picture.length - 1)) * 60).toFixed(1)} ${(20 - 18 * level).toFixed(1)}`).join('L')}`
const values = computed(() => shape.value.values[Math.min(chosen.value, shape.value.values.length - 1)] ?? [])
</script>

<template>
  <section data-testid="shape">
    <h3>Shape <span>{{ shape.points.length }} points; double click: one more</span></h3>
    <svg ref="svg" class="sheet" :class="{ drawing }" :viewBox="`0 0 ${W} ${H}`" preserveAspectRatio="none" role="application" aria-label="One cycle of the shape" @pointerdown="down" @dblclick="add">
      <g v-if="snap" class="grid">
        <path v-for="i in columns - 1" :key="`c${i}`" :d="`M${x(i / columns)} ${PAD}V${H - PAD}`" :class="{ strong: (i * 4) % columns === 0 }" />
        <path v-for="i in rows - 1" :key="`r${i}`" :d="`M${PAD} ${y(i / rows)}H${W - PAD}`" :class="{ strong: i * 2 === rows }" />
      </g>
      <path :d="`${exact}L${W - PAD} ${H - PAD}H${PAD}Z`" class="area" />
      <path :d="exact" class="line" data-testid="shape-line" />
      <template v-if="!drawing">
        <g v-for="bend in bends" :key="`b${bend.i}`" class="bend" :data-bend="bend.i" @pointerdown.stop="takeBend($event, { i: bend.i, start: shape.points[bend.i].curve })">
          <title>Drag up or down: bends the segment</title>
          <rect :x="bend.x - 9" :y="bend.y - 9" width="18" height="18" fill="transparent" /><circle :cx="bend.x" :cy="bend.y" r="2.6" />
        </g>
        <g v-for="(point, i) in shape.points" :key="i" class="point" :class="{ chosen: i === chosen }" :data-point="i" @pointerdown.stop="grab($event, i)" @dblclick.stop="remove(i)">
          <title>Drag; Shift: off the grid; double click or Alt: takes it out</title>
          <rect :x="x(point.at) - 10" :y="y(point.level) - 10" width="20" height="20" fill="transparent" /><rect :x="x(point.at) - 3.5" :y="y(point.level) - 3.5" width="7" height="7" class="square" />
        </g>
      </template>
    </svg>
    <div class="line-of">
      <span class="seg" role="group" aria-label="Points or drawing">
        <button type="button" :aria-pressed="!drawing" @click="drawing = false">Points</button>
        <button type="button" :aria-pressed="drawing" title="Draw freehand" @click="drawing = true">Draw</button>
      </span>
      <button type="button" class="btn" aria-haspopup="true" @click="openShapes">Shapes <i class="pi pi-angle-down" /></button>
      <span class="spacer" />
      <label>Grid <select v-model="grid" aria-label="Grid points snap to"><option v-for="each in GRIDS" :key="each" :value="each">{{ each }}</option></select></label>
    </div>
    <div class="fields" role="group" aria-label="Point">
      <span class="which">
        <button type="button" class="icon-btn" aria-label="Point before" :disabled="chosen === 0" @click="chosen--"><i class="pi pi-angle-left" /></button>
        <b>{{ Math.min(chosen, shape.points.length - 1) + 1 }}</b>
        <button type="button" class="icon-btn" aria-label="Point after" :disabled="chosen >= shape.points.length - 1" @click="chosen++"><i class="pi pi-angle-right" /></button>
      </span>
      <ValueField v-for="value in values" :key="value.address.param" :value="value" />
    </div>
    <div class="line-of">
      <button type="button" class="btn" title="A point half way to the next one" @click="addAfter">Point</button>
      <button type="button" class="btn" title="Upside down" @click="turn('flip')">Flip</button>
      <button type="button" class="btn" title="Backward" @click="turn('reverse')">Reverse</button>
      <button type="button" class="btn" title="Its first half over the whole cycle" @click="turn('halve')">Half</button>
      <button type="button" class="btn" title="Twice in the cycle" @click="turn('double')">Double</button>
    </div>
    <Popover ref="shapes" chooses label="Shapes to choose from">
      <div class="shapes" role="listbox" aria-label="Ready shapes">
        <button v-for="(each, at) in ready" :key="each.name" type="button" role="option" :aria-selected="false" @click="document.alter({ ask: 'take_shape', source, at })">
          <svg width="60" height="22" aria-hidden="true"><path :d="small(each.picture)" fill="none" stroke="currentColor" stroke-width="1.4" /></svg>{{ each.name }}
        </button>
      </div>
    </Popover>
  </section>
</template>

<style scoped>
.sheet { display: block; width: 100%; height: 124px; background: var(--sheet); border: 1px solid var(--hair-2); touch-action: none; }
.sheet.drawing { cursor: crosshair; }
.grid path { stroke: var(--hair); vector-effect: non-scaling-stroke; }
.grid .strong { stroke: var(--hair-2); }
.area { fill: var(--ink); fill-opacity: 0.1; }
.line { fill: none; stroke: var(--ink); stroke-width: 1.7; vector-effect: non-scaling-stroke; stroke-linejoin: round; }
.point, .bend { cursor: grab; }
.bend circle { fill: var(--ink-3); }
.square { fill: var(--sheet); stroke: var(--ink); stroke-width: 1.5; }
.chosen .square { fill: var(--ink); }
.line-of { display: flex; align-items: center; gap: 5px; margin-top: 6px; flex-wrap: wrap; }
.line-of .btn { padding: 0 7px; }
select { height: var(--hit); border: 1px solid var(--hair-2); border-radius: var(--r); background: var(--sheet); }
.fields { display: grid; grid-template-columns: auto repeat(3, minmax(0, 1fr)); gap: 6px; margin-top: 6px; align-items: center; }
.which { display: flex; align-items: center; }
.shapes { display: grid; grid-template-columns: repeat(3, 1fr); gap: 2px 8px; }
.shapes button { display: flex; align-items: center; gap: 8px; min-height: 26px; padding: 0 6px; border: 0; border-radius: var(--r); background: none; cursor: pointer; white-space: nowrap; }
.shapes button:hover { background: var(--field-hover); }
</style>
