<script setup lang="ts">
/** The notes of a phrase on the time axis, with how hard they are struck, the wheel and the bend below. */
import { computed, nextTick, ref, watch } from 'vue'

import { useGesture } from '../../composables/hand/useGesture'
import { timeToX, type Axis } from '../../draw/axis'
import type { NoteView } from '../../engine/generated/NoteView'
import type { PhraseNote } from '../../engine/generated/PhraseNote'
import type { PhraseView } from '../../engine/generated/PhraseView'
import { useDocument } from '../../stores/document'
import { useSettings } from '../../stores/settings'

const props = defineProps<{ phrase: PhraseView; axis: Axis; cursorX: number; root: number; tempo: number; selected: number[] }>()
const emit = defineEmits<{ select: [notes: number[]] }>()
const document = useDocument()
const phrase = computed(() => document.underHand('phrase', 0)?.phrase ?? props.phrase)
const settings = useSettings()
const NOTES_PX = 112
const VELOCITY_PX = 28
const LANE_PX = 22
const BEAT_PX = 20
const EDGE_PX = 6

const x = (timeS: number) => timeToX(props.axis, timeS)
const keys = computed(() => phrase.value.notes.map(({ key }) => key))
const span = computed(() => {
  const low = Math.min(props.root, ...keys.value) - 2
  const high = Math.max(props.root, ...keys.value) + 2
  return { low, high: Math.max(high, low + 9) }
})
const rowPx = computed(() => NOTES_PX / (span.value.high - span.value.low + 1))
const y = (key: number) => (span.value.high - key + 0.5) * rowPx.value
const lines = computed(() => [...new Set([props.root, ...keys.value])])
const beatPx = computed(() => (x(phrase.value.length_s) / phrase.value.length_beats) || 1)
const beats = computed(() => Array.from({ length: Math.min(512, Math.ceil(phrase.value.length_beats)) }, (_, n) => n))
const nameOf = (key: number) => phrase.value.notes.find((note) => note.key === key)?.name ?? document.view?.audition.name ?? ''
const thick = (note: NoteView) => Math.max(3, Math.min(rowPx.value * 1.2, 3 + (note.velocity / 127) * 6))

/** What a note is in the document. */
const raw = (note: NoteView): PhraseNote => ({ at_beats: note.at_beats, length_beats: note.length_beats, semitones: note.key - props.root, velocity: note.velocity })

interface Hold { notes: number[]; longer: boolean; began: NoteView[] }
/** The notes that were dragged, found again by where they are now. */
let found: { key: number; at: number }[] = []
const { take } = useGesture<Hold>({
  move({ what, x: fromX, y: fromY, gesture }, event) {
    const beatsMoved = (event.clientX - fromX) / beatPx.value
    const by = what.longer ? 0 : beatsMoved
    const semitones = what.longer ? 0 : Math.round((fromY - event.clientY) / rowPx.value)
    const grid = event.shiftKey ? 0 : settings.gridBeats
    document.byHand({ of: 'phrase' }, { ask: 'move_notes', notes: what.notes, by_beats: by, by_semitones: semitones, longer_beats: what.longer ? beatsMoved : 0, grid_beats: grid, gesture })
    const snap = (beats: number) => (grid > 0 ? Math.round(beats / grid) * grid : beats)
    found = what.began.map((note) => ({ key: note.key + semitones, at: by === 0 ? note.at_beats : Math.max(0, snap(note.at_beats + by)) }))
  },
  end({ what: { began } }) {
    void nextTick(() => {
      const moved = find(found)
      // taken back they are where they were
      emit('select', moved.length > 0 ? moved : find(began.map(({ key, at_beats }) => ({ key, at: at_beats }))))
    })
  },
})
const find = (places: { key: number; at: number }[]) =>
  places.flatMap(({ key, at }) => {
    const index = phrase.value.notes.findIndex((note) => note.key === key && Math.abs(note.at_beats - at) < 0.01)
    return index < 0 ? [] : [index]
  })
function grab(event: PointerEvent, at: number) {
  const box = (event.currentTarget as SVGElement).getBoundingClientRect()
  const more = event.shiftKey || event.ctrlKey || event.metaKey
  const notes = props.selected.includes(at) ? props.selected : more ? [...props.selected, at] : [at]
  if (!props.selected.includes(at)) emit('select', notes)
  take(event, { notes, longer: box.right - event.clientX < EDGE_PX, began: notes.map((n) => phrase.value.notes[n]) }, () => emit('select', more ? notes : [at]))
}
function add(event: MouseEvent) {
  const box = (event.currentTarget as SVGElement).getBoundingClientRect()
  const grid = settings.gridBeats || 0.25
  const at = Math.max(0, Math.floor((event.clientX - box.left) / beatPx.value / grid) * grid)
  const key = Math.round(span.value.high - (event.clientY - box.top) / rowPx.value + 0.5)
  document.edit({ do: 'add_note', note: { at_beats: at, length_beats: grid, semitones: key - props.root, velocity: 96 } })
  void nextTick(() => emit('select', find([{ key, at }])))
}
function key(event: KeyboardEvent) {
  const grid = settings.gridBeats || 0.25
  const steps = { ArrowUp: [0, 1], ArrowDown: [0, -1], ArrowLeft: [-grid, 0], ArrowRight: [grid, 0] }[event.key]
  if (event.key === 'Escape') emit('select', [])
  else if (event.key === 'a' && (event.ctrlKey || event.metaKey)) emit('select', phrase.value.notes.map((_, n) => n))
  else if (event.key === 'Tab' || event.ctrlKey || event.metaKey || event.altKey) return
  else if (event.key === 'n' || event.key === 'Insert') {
    const last = phrase.value.notes[props.selected[0] ?? phrase.value.notes.length - 1]
    const at = Math.min(phrase.value.length_beats - grid, last ? last.at_beats + Math.max(grid, last.length_beats) : 0)
    const note = { ...(last ? raw(last) : { semitones: 0, velocity: 96, length_beats: grid }), at_beats: at }
    document.edit({ do: 'add_note', note })
    void nextTick(() => emit('select', find([{ key: note.semitones + props.root, at }])))
  } else if (props.selected.length === 0 && (event.key === 'ArrowRight' || event.key === 'ArrowLeft')) emit('select', [0])
  else if (steps && event.shiftKey && steps[0] !== 0) emit('select', [Math.max(0, Math.min(phrase.value.notes.length - 1, (props.selected[0] ?? 0) + Math.sign(steps[0])))])
  else if (steps) {
    const chosen = props.selected.map((n) => phrase.value.notes[n])
    const semitones = steps[1] * (event.shiftKey ? 12 : 1)
    const gesture = document.beginGesture()
    document.alter({ ask: 'move_notes', notes: props.selected, by_beats: steps[0], by_semitones: semitones, longer_beats: 0, grid_beats: settings.gridBeats, gesture })
    document.endGesture()
    void nextTick(() => emit('select', find(chosen.map((note) => ({ key: note.key + semitones, at: Math.max(0, note.at_beats + steps[0]) })))))
  } else if ((event.key === 'Delete' || event.key === 'Backspace') && props.selected.length) {
    document.edit({ do: 'remove_notes', notes: props.selected })
    emit('select', [])
  } else return
  event.preventDefault()
  event.stopPropagation()
}

// velocities are dragged up and down, of all selected together
const { take: takeVelocity } = useGesture<{ notes: number[] }>({
  slackPx: 1,
  move({ what, y: from, gesture }, event) {
    const moved = ((from - event.clientY) / VELOCITY_PX) * 127
    document.byHand({ of: 'phrase' }, { ask: 'strike_notes', notes: what.notes, by_velocity: moved, gesture })
  },
})
function grabVelocity(event: PointerEvent, at: number) {
  const notes = props.selected.includes(at) ? props.selected : [at]
  emit('select', notes)
  takeVelocity(event, { notes })
}

// the wheels: a double click adds a turn, dragging moves it, the right button takes it out
const LANES = [{ bend: false, title: 'Wheel' }, { bend: true, title: 'Bend' }] as const
const turnsOf = (bend: boolean) => (bend ? phrase.value.bend : phrase.value.wheel)
const turnY = (bend: boolean, place: number) => (bend ? LANE_PX * (0.5 - place * 0.42) : LANE_PX * (0.94 - place * 0.86))
const placeAt = (bend: boolean, top: number) => Math.max(bend ? -1 : 0, Math.min(1, bend ? (0.5 - top / LANE_PX) / 0.42 : (0.94 - top / LANE_PX) / 0.86))
const course = (bend: boolean) => {
  const turns = turnsOf(bend)
  const rest = turnY(bend, 0)
  if (turns.length === 0) return `M0 ${rest}H${x(phrase.value.length_s)}`
  return `M0 ${turnY(bend, turns[0][2])}${turns.map(([timeS, , place]) => `L${x(timeS)} ${turnY(bend, place)}`).join('')}H${x(phrase.value.length_s)}`
}
const set = (bend: boolean, turns: [number, number][], gesture: number | null = null) =>
  document.byHand({ of: 'phrase' }, { ask: 'edit', edit: { do: 'set_turns', bend, turns: turns.map(([at_beats, place]) => ({ at_beats, place })).sort((a, b) => a.at_beats - b.at_beats) }, units: [], gesture })
const plain = (bend: boolean) => turnsOf(bend).map(([, at, place]): [number, number] => [at, place])
function addTurn(event: MouseEvent, bend: boolean) {
  const box = (event.currentTarget as SVGElement).getBoundingClientRect()
  const at = Math.max(0, Math.min(phrase.value.length_beats, (event.clientX - box.left) / beatPx.value))
  set(bend, [...plain(bend), [at, placeAt(bend, event.clientY - box.top)]])
}
const { take: takeTurn } = useGesture<{ bend: boolean; at: number; began: [number, number][]; top: number; left: number }>({
  move({ what, gesture }, event) {
    const turns = what.began.map((turn, n): [number, number] => (n === what.at ? [Math.max(0, Math.min(phrase.value.length_beats, (event.clientX - what.left) / beatPx.value)), placeAt(what.bend, event.clientY - what.top)] : turn))
    set(what.bend, turns, gesture)
  },
})
function grabTurn(event: PointerEvent, bend: boolean, at: number) {
  const box = (event.currentTarget as SVGElement).ownerSVGElement?.getBoundingClientRect()
  if (box) takeTurn(event, { bend, at, began: plain(bend), top: box.top, left: box.left })
}
const removeTurn = (bend: boolean, at: number) => set(bend, plain(bend).filter((_, n) => n !== at))
watch(() => phrase.value.notes.length, (count) => {
  if (props.selected.some((n) => n >= count)) emit('select', props.selected.filter((n) => n < count))
})
const board = ref<SVGSVGElement>()
defineExpose({ focus: () => board.value?.focus() })
</script>

<template>
  <div class="grid">
    <svg class="beat" :width="axis.widthPx" :height="BEAT_PX" role="img" :aria-label="`Strokes of the beat. ${phrase.beat}.`">
      <template v-for="([timeS, drum, hard], n) in phrase.strokes" :key="n">
        <rect v-if="drum === 0" :x="x(timeS) - 3" :y="BEAT_PX - 9" width="6" height="6" :opacity="hard > 0.6 ? 1 : 0.5" />
        <path v-else-if="drum < 3" :d="`M${x(timeS) - 3} 4l6 6m0 -6l-6 6`" class="cross" />
        <path v-else :d="`M${x(timeS)} ${hard > 0.6 ? 7 : 10}V${BEAT_PX - 3}`" class="tick" />
      </template>
    </svg>
    <svg ref="board" class="notes" :width="axis.widthPx" :height="NOTES_PX" tabindex="0" role="application" aria-label="Notes of the phrase: arrow keys move, Shift and left or right choose, N adds, Delete removes" data-testid="phrase-notes" @dblclick="add" @pointerdown.self="emit('select', [])" @keydown="key">
      <path v-for="beat in beats" :key="beat" :d="`M${beat * beatPx} 0V${NOTES_PX}`" :class="beat % 4 ? 'beatline' : 'barline'" />
      <path v-for="line in lines" :key="`k${line}`" :d="`M0 ${y(line)}H${axis.widthPx}`" class="keyline" :class="{ root: line === root }" />
      <text v-for="line in lines" :key="`n${line}`" x="3" :y="y(line) - 2" :class="{ root: line === root }" class="name">{{ line === root || rowPx > 8 ? nameOf(line) : '' }}</text>
      <path :d="`M${x(phrase.length_s)} 0V${NOTES_PX}`" class="end" /><path :d="`M${cursorX} 0V${NOTES_PX}`" class="cursor" />
      <g v-for="(note, at) in phrase.notes" :key="at" class="note" :class="{ selected: selected.includes(at), slid: note.slid }" :data-note="at" @pointerdown.stop="grab($event, at)" @dblclick.stop>
        <rect :x="x(note.at_s)" :y="y(note.key) - 6" :width="Math.max(6, x(note.end_s) - x(note.at_s))" height="12" class="hit" />
        <rect :x="x(note.at_s)" :y="y(note.key) - thick(note) / 2" :width="Math.max(3, x(note.end_s) - x(note.at_s) - 1)" :height="thick(note)" rx="1" class="bar" />
        <path v-if="!note.slid" :d="`M${x(note.at_s)} ${y(note.key) - 5}v10`" class="press" /><circle v-else :cx="x(note.at_s)" :cy="y(note.key)" r="3.5" class="ring" />
        <title>{{ note.name }}, {{ note.place }}, {{ note.length }} beats, velocity {{ note.velocity }}{{ note.slid ? ', slid into' : '' }}</title>
      </g>
    </svg>
    <svg class="velocity" :width="axis.widthPx" :height="VELOCITY_PX" role="img" aria-label="Velocities">
      <g v-for="(note, at) in phrase.notes" :key="at" class="stem" :class="{ selected: selected.includes(at) }" @pointerdown.stop="grabVelocity($event, at)">
        <rect :x="x(note.at_s) - 6" y="0" width="12" :height="VELOCITY_PX" class="hit" />
        <path :d="`M${x(note.at_s)} ${VELOCITY_PX}V${VELOCITY_PX - 4 - (note.velocity / 127) * (VELOCITY_PX - 8)}`" /><circle :cx="x(note.at_s)" :cy="VELOCITY_PX - 4 - (note.velocity / 127) * (VELOCITY_PX - 8)" r="3" />
      </g>
    </svg>
    <svg v-for="{ bend, title } in LANES" :key="title" class="lane" :width="axis.widthPx" :height="LANE_PX" role="img" :aria-label="`${title}: double click adds a turn`" @dblclick="addTurn($event, bend)">
      <path :d="course(bend)" class="course" :class="{ idle: turnsOf(bend).length === 0 }" />
      <rect v-for="([timeS, , place], at) in turnsOf(bend)" :key="at" :x="x(timeS) - 3" :y="turnY(bend, place) - 3" width="6" height="6" class="turn" @pointerdown.stop="grabTurn($event, bend, at)" @dblclick.stop="removeTurn(bend, at)" @contextmenu.prevent="removeTurn(bend, at)" />
    </svg>
  </div>
</template>

<style scoped>
.grid { display: grid; border-left: 1px solid var(--hair-2); user-select: none; }
svg { display: block; border-bottom: 1px solid var(--hair); touch-action: none; overflow: hidden; }
.notes { cursor: crosshair; }
.notes:focus { outline: 1.5px solid var(--swept); outline-offset: -2px; }
.barline { stroke: var(--hair-2); } .beatline { stroke: var(--hair); stroke-dasharray: 1 3; }
.name { font-size: 9px; fill: var(--ink-3); pointer-events: none; } .name.root { fill: var(--ink); font-weight: 600; }
.keyline { stroke: var(--hair); } .keyline.root { stroke: var(--hair-2); }
.end { stroke: var(--ink); stroke-dasharray: 4 3; } .cursor { stroke: var(--ink); stroke-width: 1.2; }
.hit { fill: transparent; cursor: grab; }
.bar { fill: var(--ink-2); pointer-events: none; }
.press { stroke: var(--ink); stroke-width: 1.5; pointer-events: none; }
.ring { fill: var(--sheet); stroke: var(--ink); stroke-width: 1.4; pointer-events: none; }
.selected .bar { fill: var(--ink); stroke: var(--key-on); stroke-width: 3; paint-order: stroke; }
.stem path { stroke: var(--ink-2); } .stem circle { fill: var(--ink-2); cursor: ns-resize; }
.stem .hit { cursor: ns-resize; }
.stem.selected circle { fill: var(--key-on); stroke: var(--ink); }
.course { fill: none; stroke: var(--ink); stroke-width: 1.4; } .course.idle { stroke: var(--hair-2); }
.turn { fill: var(--sheet); stroke: var(--ink); cursor: move; }
.beat rect { fill: var(--ink); } .cross, .tick { stroke: var(--ink); stroke-width: 1.3; }
.tick { opacity: 0.7; }
</style>
