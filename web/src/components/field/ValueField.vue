<script setup lang="ts">
/** A value: drag, arrow keys, the wheel while it has the focus, and above all type: one click, or any character. */
import { computed, nextTick, ref } from 'vue'

import { inkOf } from '../../draw/tokens'
import { useDropField } from '../../composables/hand/useDropField'
import { useGesture, useWheelGesture } from '../../composables/hand/useGesture'
import type { ValueView } from '../../engine/generated/ValueView'
import { useDocument } from '../../stores/document'
import { useMoving } from '../../stores/moving'

const props = withDefaults(defineProps<{ value: ValueView; label?: string; inline?: boolean; disabled?: boolean; alone?: boolean }>(), { label: undefined })

const document = useDocument()
const moving = useMoving()
/** Of which strips it is a value: of all that are selected, or of its own alone. */
const units = computed(() => (props.alone ? [] : document.units))
const typing = ref(false)
const typed = ref('')
/** What the field began with: leaving it unchanged changes nothing. */
let begun = ''
/** A value was just taken: digits select strips again, until the field is gone to anew. */
let rested = false
const problem = ref('')
/** What is good to know of what is typed, before it is taken. */
const hint = computed(() => (typing.value && !problem.value && typed.value !== begun ? document.hint(props.value.address, typed.value) : ''))
const input = ref<HTMLInputElement>()
const field = ref<HTMLElement>()
/** Pixels of a drag over the whole range. */
const RANGE_PX = 220
const PROBLEM_PX = 260
const spot = ref({ left: '0', top: '0' })

/** What is shown of it. */
const shown = computed(() => document.newest(props.value))
const label = computed(() => props.label ?? props.value.label)
const spread = computed(() => (props.alone ? undefined : document.spread(props.value.address)))
const bar = computed(() => {
  const [from, to] = [shown.value.origin, shown.value.place].sort((a, b) => a - b)
  return { left: `${from * 100}%`, width: `${Math.max((to - from) * 100, 1)}%` }
})

/** Where it lies at the cursor while something moves it. */
const swings = computed(() => (shown.value.moved ? moving.placeNow(shown.value.moved.links) : undefined))
function ask() {
  if (field.value) moving.asked = { address: props.value.address, label: label.value, movable: props.value.movable, base: props.value.base, anchor: field.value }
}
/** L is a place between left and right. */
const isPan = computed(() => props.value.address.param.endsWith('pan'))

/** Opens for typing: with all digits, all of it selected, the unit too; or with the character typed. */
async function type(begin?: string) {
  if (props.disabled) return
  problem.value = ''
  begun = props.value.exact
  typed.value = begin ?? begun
  typing.value = true
  putBeside()
  await nextTick()
  input.value?.focus()
  if (begin === undefined) input.value?.select()
}

/** What is said of it stands beside the field, but is never cut off by the panel that stands in. */
function putBeside() {
  const box = field.value?.getBoundingClientRect()
  if (box) spot.value = { left: `${Math.max(8, Math.min(box.left, window.innerWidth - PROBLEM_PX - 8))}px`, top: `${box.bottom + 2}px` }
}

function commit() {
  if (!typing.value) return
  const why = typed.value === begun ? undefined : document.type(props.value.address, typed.value, units.value)
  if (why) {
    problem.value = why
    putBeside()
    return
  }
  rested = true
  leave()
}

function leave() {
  typing.value = false
  problem.value = ''
  void nextTick(() => field.value?.focus())
}

/** Leaving the field takes what is a value and drops what is none. */
function blur() {
  if (!typing.value) return
  if (typed.value !== begun) document.alter({ ask: 'type', address: props.value.address, units: units.value, text: typed.value })
  typing.value = false
  problem.value = ''
}

const { isOver, drop } = useDropField(() => props.value)
const { take } = useGesture<number>({
  move({ what: start, x, y, gesture }, event) {
    // a finger scrolls up and down, and drags sideways; a name over a source leaves the value as it was
    const pixels = byName && isOver(event) ? 0 : event.clientX - x + (event.pointerType === 'touch' ? 0 : y - event.clientY)
    document.drag({ address: props.value.address, units: units.value, start, moved: pixels / RANGE_PX, fine: event.shiftKey, gesture })
  },
  end(_, event, kept) {
    if (byName) drop(kept ? event : undefined)
  },
})
let byName = false
/** A press that was no drag types; two on the name give the default back. */
function down(event: PointerEvent) {
  if (typing.value || props.disabled) return
  // a macro's own value goes on being dragged over its neighbours
  byName = event.target instanceof Element && event.target.closest('.label') !== null && !event.target.closest('[data-giver]')
  take(event, props.value.value, () => void type())
}

/** The first of two presses on the name opened it. */
function resets(event: MouseEvent) {
  if (props.disabled || !(event.target instanceof Element) || !event.target.closest('.label')) return
  typing.value = false
  reset()
}
function reset() {
  document.alter({ ask: 'reset', address: props.value.address, units: units.value })
}
function nudge(steps: number, fine: boolean, gesture: number | null = null) {
  document.byHand({ of: 'value', address: props.value.address }, { ask: 'nudge', address: props.value.address, units: units.value, steps, fine, gesture })
}
const turn = useWheelGesture((event, gesture) => nudge(event.deltaY < 0 ? 1 : -1, event.shiftKey, gesture))
/** Without the focus the wheel scrolls what the field stands in. */
function wheel(event: WheelEvent) {
  if (props.disabled || window.document.activeElement !== field.value) return
  event.preventDefault()
  turn(event)
}

function key(event: KeyboardEvent) {
  if (typing.value || props.disabled || event.ctrlKey || event.metaKey || event.altKey) return
  const steps = { ArrowUp: 1, ArrowRight: 1, ArrowDown: -1, ArrowLeft: -1, PageUp: 10, PageDown: -10 }[event.key]
  if (steps !== undefined) nudge(steps, event.shiftKey)
  else if (event.key === 'ContextMenu' || (event.key.toLowerCase() === 'l' && !isPan.value)) ask()
  else if (event.key === 'Enter' || event.key === 'F2') void type()
  else if (event.key === 'Delete' || event.key === 'Backspace') reset()
  else if (event.key.length === 1 && (rested ? /[^\s?[\]\d]/ : /[^\s?]/).test(event.key)) void type(event.key)
  else return
  event.preventDefault()
  event.stopPropagation()
}
</script>

<template>
  <div
    ref="field" class="field" :data-param="shown.address.param" :data-id="shown.address.id" :data-point="shown.address.point" :data-movable="shown.movable ?? undefined" :class="{ inline, typing, disabled, differs: spread, own: shown.base }" role="spinbutton" :tabindex="disabled ? -1 : 0"
    :aria-label="label" :aria-valuenow="shown.value" :aria-valuetext="(spread ? `${spread.from} to ${spread.to}` : `${shown.number} ${shown.unit}`).trim()" :aria-disabled="disabled"
    :title="`${document.help(shown.address.param)} Click to type, drag (Shift: fine), arrow keys; Delete or a double click on the name for the default.${shown.movable ? ' L or the right button: what moves it; its name dropped on a macro: that moves it.' : ''}`"
    @pointerdown="down" @wheel="wheel" @keydown="key" @contextmenu.prevent="ask" @dblclick="resets" @blur="typing || (rested = false)"
  >
    <span class="label">{{ label }}<span v-if="shown.moved" class="moves" title="Moved: right button or L says by what">~</span><b v-if="spread" class="sign" title="Differs among the selected strips">≠</b><b v-else-if="shown.base" class="sign" :title="`Differs from the base, which has ${shown.base}; the right button or L takes it back or makes it the base`">≠</b></span>
    <input
      v-if="typing" ref="input" v-model="typed" class="value" data-own-escape :aria-label="`${label}, typed`" :aria-invalid="problem !== ''"
      @keydown.enter.stop.prevent="commit" @keydown.escape.stop.prevent="leave" @blur="blur"
    />
    <span v-else class="value" :title="spread && `${spread.from} to ${spread.to}`">{{ spread ? `${spread.from} to ${spread.to}` : shown.number }}<u v-if="shown.unit && !spread">{{ shown.unit }}</u></span>
    <span class="track"><em v-if="shown.moved" class="swept" :style="{ left: `${shown.moved.low * 100}%`, width: `${Math.max(1, (shown.moved.high - shown.moved.low) * 100)}%` }" /><i v-if="!spread" :style="bar" :class="{ behind: shown.moved }" /><b v-if="shown.moved" class="tick" :style="{ left: `${shown.place * 100}%` }" /><b v-if="shown.base" class="base" :style="{ left: `${shown.base_place * 100}%` }" /><b v-if="swings !== undefined" class="now" :style="{ left: `${swings * 100}%` }" /><b v-for="[id, place] in spread?.places" :key="id" :style="{ left: `${place * 100}%`, background: inkOf(id) }" /></span>
    <span v-if="shown.limit" class="limit" role="note">{{ shown.limit }}</span>
    <Teleport to="body"><span v-if="problem" class="problem" :style="spot" role="alert">{{ problem }}</span><span v-else-if="hint" class="problem hint" :style="spot" role="status">{{ hint }}</span></Teleport>
  </div>
</template>

<style scoped>
.field {
  position: relative; background: var(--field); border-radius: var(--r); padding: 3px 6px 6px; cursor: ns-resize; min-width: 0;
  user-select: none; touch-action: pan-y; min-height: 38px;
}
.field:hover { background: var(--field-hover); }
.field.disabled { opacity: 0.45; cursor: default; }
.label { display: block; font-size: var(--fs-11); line-height: 13px; color: var(--ink-3); white-space: nowrap; overflow: hidden; text-overflow: ellipsis; }
.value { display: block; font-size: var(--fs-13); line-height: 16px; font-weight: 600; white-space: nowrap; cursor: text; width: fit-content; max-width: 100%; overflow: hidden; text-overflow: ellipsis; }
.value u { text-decoration: none; font-weight: 400; font-size: var(--fs-11); color: var(--ink-2); margin-left: 2px; }
input.value { all: unset; width: 100%; font-weight: 600; font-size: var(--fs-13); line-height: 16px; cursor: text; user-select: text; }
.typing { outline: 1.5px solid var(--ink); }
.track { position: absolute; left: 6px; right: 6px; bottom: 3px; height: 2px; background: var(--bar-track); }
.track i { position: absolute; top: 0; height: 2px; background: var(--bar); }
.swept { position: absolute; top: -1px; height: 4px; background: var(--swept); }
.track i.behind { display: none; }
.track .now { width: 6px; height: 6px; top: -2px; margin-left: -3px; border-radius: 50%; background: var(--sheet); border: 1.5px solid var(--swept); }
.moves { float: right; font-weight: 600; color: var(--swept); }
.track b { position: absolute; top: -3px; width: 2px; height: 6px; margin-left: -1px; }
.track .tick { background: var(--ink); }
.track .base { width: 6px; height: 6px; top: -2px; margin-left: -3px; border: 1px solid var(--ink); background: none; }
.own { box-shadow: inset 2px 0 0 var(--ink); }
.differs { outline: 1px dashed var(--hair-2); outline-offset: -1px; }
.sign { float: right; font-weight: 600; color: var(--ink-2); }
.inline { display: flex; gap: 6px; align-items: baseline; min-height: 26px; height: 26px; padding: 3px 7px 7px; }
.inline .label, .inline .value { line-height: 17px; }
.inline input.value { width: 72px; }
.problem {
  position: fixed; z-index: 60; width: max-content; max-width: 260px; padding: 6px 8px; white-space: normal;
  background: var(--warn-bg); color: var(--warn); border: 1px solid var(--warn); border-radius: var(--r); font-size: var(--fs-12); cursor: default;
}
.hint { background: var(--sheet); color: var(--ink-2); border-color: var(--hair-2); }
.limit { display: block; margin-top: 3px; color: var(--warn); font-size: var(--fs-11); line-height: 13px; white-space: normal; }
</style>
