<script setup lang="ts">
/** The sources of movement on the time axis of the note: each draws where it stands, and behind that what it moves. */
import { computed, ref, watch } from 'vue'

import SourceHead from './SourceHead.vue'
import SourcePlot from './SourcePlot.vue'
import KeyMarks from '../../components/score/KeyMarks.vue'
import { useGesture } from '../../composables/hand/useGesture'
import { useWhileAudible } from '../../composables/heard/useWhileAudible'
import { timeToX, type Axis } from '../../draw/axis'
import type { Unfolded } from '../../engine/workers'
import type { DocumentView } from '../../engine/generated/DocumentView'
import type { SourceView } from '../../engine/generated/SourceView'
import { useDocument } from '../../stores/document'
import { useMoving } from '../../stores/moving'
import { usePlaying } from '../../stores/playing'

const props = defineProps<{ view: DocumentView; picture?: Unfolded; axis: Axis; cursorS: number }>()
const emit = defineEmits<{ scrubFrom: [event: PointerEvent] }>()
const document = useDocument()
const moving = useMoving()
const playing = usePlaying()
const ROW_PX = 48
const SELECTED_PX = 70
const scroll = ref<HTMLElement>()
/** All sources, or those that move the value that is looked at. */
const targeted = computed(() => {
  const to = moving.target
  const links = to ? props.view.links.filter((link) => link.to.param === to.param && link.to.id === to.id && link.to.point === to.point) : []
  return links.length ? links : undefined
})
const sources = computed(() => (targeted.value ? props.view.sources.filter(({ id }) => targeted.value?.some((link) => link.from === id)) : props.view.sources))
const sum = computed(() => {
  const moved = targeted.value && props.picture?.moved.get(targeted.value[0].id)
  if (!moved?.length) return ''
  const step = props.axis.widthPx / moved.length
  return `M${Array.from(moved, (place, i) => `${((i + 0.5) * step).toFixed(1)} ${(SELECTED_PX - 5 - place * (SELECTED_PX - 14)).toFixed(1)}`).join('L')}`
})
/** Where sources stand in the note that sounds. */
const live = ref<number[]>()
useWhileAudible(() => {
  const now = playing.places(props.view.sources.length)
  if (now || live.value) live.value = now
})
const liveOf = (source: SourceView) => live.value?.[props.view.sources.indexOf(source)]
const heightOf = (source: SourceView) => (source.id === document.source ? SELECTED_PX : ROW_PX)
const end = computed(() => sources.value.reduce((all, source) => all + heightOf(source), targeted.value ? SELECTED_PX : 0))
const cursorX = computed(() => timeToX(props.axis, props.cursorS))
const releaseX = computed(() => timeToX(props.axis, props.view.audition.hold_s))

// a source's sign dropped on another one moves that one's rate
const over = ref<number | null>(null)
const at = ref({ x: 0, y: 0 })
const { take, dragged } = useGesture<SourceView>({
  edits: false,
  move(_, event) {
    const box = scroll.value?.getBoundingClientRect()
    at.value = { x: event.clientX - (box?.left ?? 0), y: event.clientY - (box?.top ?? 0) + (scroll.value?.scrollTop ?? 0) }
    const row = window.document.elementsFromPoint(event.clientX, event.clientY).map((element) => element.closest('[data-source]')).find(Boolean)
    over.value = row ? Number(row.getAttribute('data-source')) : null
  },
  end({ what }, _, kept) {
    if (kept && over.value !== null && over.value !== what.id) document.alter({ ask: 'link_strips', from: what.id, strips: [over.value] })
    over.value = null
  },
})
watch(() => document.source, () => {
  scroll.value?.querySelector('.row.selected')?.scrollIntoView({ block: 'nearest' })
}, { flush: 'post' })
</script>

<template>
  <div ref="scroll" class="scroll" @pointerdown.self="document.source = null">
    <div v-if="view.sources.length === 0" class="none">
      <p class="lead">Nothing moves yet.</p>
      <p>A <b>source</b> changes by itself: a drawn cycle, steps, an envelope, chance, or what is played. A <b>link</b> lets it move a value, as far as you say. Add a source below, then say what it moves; or in Build, press <b>L</b> on any value, or the right button.</p>
    </div>
    <div v-else class="rows" :style="{ height: `${end}px` }">
      <div class="list" tabindex="0" role="grid" aria-label="Sources of movement">
        <div v-if="targeted" class="row sum" role="row" aria-label="All that moves it together" :style="{ height: `${SELECTED_PX}px`, gridTemplateColumns: `var(--side) ${axis.widthPx}px var(--scale)` }">
          <div role="gridcell" class="sumhead"><b>{{ targeted[0].target }}</b><span class="muted">{{ targeted.length === 1 ? 'moved by one source' : `the sum of ${targeted.length} sources` }}</span><button type="button" class="btn" @click="moving.target = undefined">All sources</button></div>
          <div role="gridcell" class="plot" @pointerdown="emit('scrubFrom', $event)"><svg :width="axis.widthPx" :height="SELECTED_PX"><path :d="sum" class="course" data-testid="sum" /></svg></div>
          <div class="ticks" role="presentation" />
        </div>
        <div
          v-for="source in sources" :key="source.id" class="row" role="row" :aria-selected="source.id === document.source" :aria-label="source.name" :data-source="source.id"
          :class="{ selected: source.id === document.source, target: dragged && over === source.id && dragged.what.id !== source.id }" :style="{ height: `${heightOf(source)}px`, gridTemplateColumns: `var(--side) ${axis.widthPx}px var(--scale)` }"
        >
          <SourceHead role="gridcell" :source="source" :links="document.linksOf(source.id)" :selected="source.id === document.source" @grip="take($event, source)" />
          <div class="plot" role="gridcell" @pointerdown="document.source = source.id; emit('scrubFrom', $event)">
            <SourcePlot :source="source" :links="document.linksOf(source.id)" :picture="picture" :axis="axis" :height="heightOf(source)" :cursor-x="cursorX" :selected="source.id === document.source" :live="liveOf(source)" />
          </div>
          <div class="ticks" role="presentation"><span class="up">{{ source.swings ? '+1' : '1' }}</span><span class="down">{{ source.swings ? '−1' : '0' }}</span></div>
        </div>
      </div>
      <KeyMarks :axis="axis" :height="end" :cursor-x="cursorX" :release-x="releaseX" :note-y="end - 5" />
      <div v-if="dragged" class="hint" :style="{ left: `${at.x + 14}px`, top: `${at.y + 10}px` }">{{ over !== null && over !== dragged.what.id ? 'moves how fast it goes' : 'drop on a source, or link a value at the right' }}</div>
    </div>
  </div>
</template>

<style scoped>
.scroll { overflow-y: auto; overflow-x: hidden; min-height: 0; scrollbar-width: thin; position: relative; }
.none { max-width: 620px; padding: 28px 24px; font-size: var(--fs-13); color: var(--ink-2); }
.lead { font-weight: 600; font-size: var(--fs-15); color: var(--ink); margin: 0 0 6px; }
.rows { position: relative; user-select: none; }
.list { position: absolute; inset: 0; outline-offset: -2px; }
.row { position: relative; display: grid; border-bottom: 1px solid var(--hair-2); }
.row.selected { background: var(--select); }
.row.target { outline: 2px solid var(--swept); outline-offset: -2px; }
.sumhead { display: flex; flex-direction: column; align-items: flex-start; gap: 2px; padding: 4px 10px; }
.sum { background: var(--paper); }
.course { fill: none; stroke: var(--ink); stroke-width: 2; }
.plot { position: relative; touch-action: none; cursor: crosshair; min-width: 0; border-left: 1px solid var(--hair-2); }
.ticks { position: relative; font-size: var(--fs-11); color: var(--ink-3); }
.ticks span { position: absolute; left: 6px; }
.up { top: 1px; }
.down { bottom: 1px; }
.hint { position: absolute; z-index: 26; background: var(--ink); color: var(--on-ink); padding: 3px 8px; border-radius: var(--r); white-space: nowrap; pointer-events: none; }
</style>
