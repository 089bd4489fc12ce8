<script setup lang="ts">
/** Build: the strips of the patch over the life of the auditioned note, the result, and the inspector. */
import { useElementSize, useEventListener, useMediaQuery } from '@vueuse/core'
import Popover from 'primevue/popover'
import { useToast } from 'primevue/usetoast'
import { computed, onUnmounted, ref, shallowRef, watch } from 'vue'
import { useRoute, useRouter } from 'vue-router'

import AlgorithmPanel from './AlgorithmPanel.vue'
import ScoreRows from './ScoreRows.vue'
import TimeRuler from './TimeRuler.vue'
import UnitInspector from './UnitInspector.vue'
import VoiceInspector from './VoiceInspector.vue'
import PartialList from '../../components/score/PartialList.vue'
import ResultPane from '../../components/score/ResultPane.vue'
import { useUnfold } from '../../composables/useUnfold'
import { timeToX, xToTime, type Axis } from '../../draw/axis'
import { Refusal } from '../../engine/api'
import type { Explanation } from '../../engine/generated/Explanation'
import { useDocument } from '../../stores/document'
import { useSaving } from '../../stores/saving'
import { useSettings } from '../../stores/settings'

const route = useRoute()
const router = useRouter()
const toast = useToast()
const document = useDocument()
const saving = useSaving()
const settings = useSettings()
const { picture, version, latencyMs } = useUnfold()
const problem = ref('')
/** Until the patch of the address is there nothing of another one is shown, and nothing can be done to it. */
const isOpen = computed(() => saving.id !== null && saving.id === Number(route.params.id))
const score = ref<HTMLElement>()
const { width, height } = useElementSize(score)
const HEAD_PX = 288
const SCALE_PX = 50

// numbers of their own, so that an edit that leaves them alone does not draw every strip anew
const windowS = computed(() => document.view?.audition.window_s ?? 3)
const axis = computed<Axis>(() => ({
  widthPx: Math.max(200, width.value - HEAD_PX - SCALE_PX),
  windowS: windowS.value,
  exponent: settings.exponent,
}))
const cursorS = ref(0.4)
const cursorX = computed(() => timeToX(axis.value, cursorS.value))
watch(() => axis.value.windowS, (windowS) => (cursorS.value = Math.min(cursorS.value, windowS)))

const RETRY_MS = 1500
let retry = 0
/** Opens the patch of the address. What is not there is told in the Library; a server that is gone is asked again. */
async function openNow() {
  const id = route.params.id
  const isHere = () => route.name === 'build' && route.params.id === id
  window.clearTimeout(retry)
  if (route.name !== 'build') return
  try {
    await document.start()
    if (!isHere()) return
    problem.value = (await saving.open(Number(id))) ?? ''
  } catch (error) {
    // an opening that was left says nothing
    if (!isHere()) return
    problem.value = error instanceof Error ? error.message : String(error)
    if (error instanceof Refusal && error.problem.status < 500) {
      toast.add({ severity: 'error', summary: 'Not opened', detail: problem.value, life: 6000 })
      void router.replace('/')
    } else retry = window.setTimeout(() => void openNow(), RETRY_MS)
  }
}
watch(() => route.params.id, () => {
  problem.value = ''
  void openNow()
}, { immediate: true })
onUnmounted(() => window.clearTimeout(retry))
watch(() => document.refusal, (why) => {
  if (why) toast.add({ severity: 'warn', summary: 'Not changed', detail: why, life: 6000 })
})

function scrub(event: PointerEvent) {
  if (!(event.buttons & 1) && event.type === 'pointermove') return
  const box = score.value?.getBoundingClientRect()
  if (box) cursorS.value = xToTime(axis.value, event.clientX - box.left - HEAD_PX)
}
function scrubFrom(event: PointerEvent) {
  const box = score.value?.getBoundingClientRect()
  if (!box || event.clientX - box.left < HEAD_PX || event.clientX - box.left > HEAD_PX + axis.value.widthPx) return
  ;(event.currentTarget as Element).setPointerCapture(event.pointerId)
  scrub(event)
}
/** The wheel over the ruler spans more or less time, from 5 ms to 20 s. */
let zooming = { gesture: 0, timer: 0 }
function zoom(event: WheelEvent) {
  if (!zooming.gesture) zooming.gesture = document.beginGesture()
  const address = document.value('audition.window_s')?.address
  if (address) document.alter({ ask: 'nudge', address, also: [], steps: event.deltaY > 0 ? 4 : -4, fine: false, gesture: zooming.gesture })
  window.clearTimeout(zooming.timer)
  zooming.timer = window.setTimeout(() => {
    zooming = { gesture: 0, timer: 0 }
    document.endGesture()
  }, 300)
}
function keyScrub(event: KeyboardEvent) {
  const step = { ArrowRight: 8, ArrowLeft: -8 }[event.key]
  if (!step) return
  event.preventDefault()
  cursorS.value = xToTime(axis.value, cursorX.value + (event.shiftKey ? step / 8 : step))
}

// the result takes what few strips leave free, up to a point
const RESULT_LEAST_PX = 204
const RESULT_MOST_PX = 340
const resultPx = computed(() => {
  if (settings.resultHeight > 0) return settings.resultHeight
  const groups = document.view?.groups ?? []
  const folded = groups.filter((group) => group.folded).reduce((sum, group) => sum + group.units.length, 0)
  const strips = (document.view?.strips.length ?? 0) - folded
  const content = strips * 48 + groups.length * 28 + (document.selectedStrip ? 22 : 0) + 58
  return Math.max(RESULT_LEAST_PX, Math.min(RESULT_MOST_PX, height.value - 26 - 28 - content))
})

// on a narrow window the inspector is a drawer
const narrow = useMediaQuery('(max-width: 1279px)')
const drawer = ref(false)
const choosing = ref(false)
function openAlgorithms() {
  choosing.value = !choosing.value
  drawer.value = true
}

// one key steps the wave while a note sounds; one held key lets hear without the selected strips
const isTyping = (target: EventTarget | null) => target instanceof HTMLElement && target.closest('input, textarea, [role=dialog] input') !== null
let without: { list: 'muted' | 'bypassed'; ids: number[] }[] = []
/** Sources fall silent, filters and shapers let everything through. */
function hearWithout() {
  const view = document.view
  if (!view) return
  const chosen = view.strips.filter((strip) => document.units.includes(strip.id))
  without = (['muted', 'bypassed'] as const).map((list) => ({
    list, ids: chosen.filter((strip) => strip.is_source === (list === 'muted') && !view.listening[list].includes(strip.id)).map((strip) => strip.id),
  }))
  document.listen(without.reduce((now, { list, ids }) => ({ ...now, [list]: [...now[list], ...ids] }), view.listening))
}
useEventListener(window, 'keydown', (event) => {
  if (event.ctrlKey || event.metaKey || event.altKey || isTyping(event.target) || document.units.length === 0) return
  if (event.code === 'BracketLeft' || event.code === 'BracketRight') document.alter({ ask: 'step_wave', units: document.units, steps: event.code === 'BracketLeft' ? -1 : 1 })
  if (event.code === 'KeyO' && !event.repeat && without.length === 0) hearWithout()
})
function hearAgain() {
  if (without.length === 0 || !document.view) return
  const now = without.reduce((all, { list, ids }) => ({ ...all, [list]: all[list].filter((id) => !ids.includes(id)) }), document.view.listening)
  without = []
  document.listen(now)
}
useEventListener(window, 'keyup', (event) => {
  if (event.code === 'KeyO') hearAgain()
})
useEventListener(window, 'blur', hearAgain)

// the seam between strips and result
let seam: { y: number; height: number } | undefined
function seamDown(event: PointerEvent) {
  ;(event.currentTarget as Element).setPointerCapture(event.pointerId)
  seam = { y: event.clientY, height: resultPx.value }
}
function seamMove(event: PointerEvent) {
  if (seam) settings.resultHeight = Math.max(120, Math.min(420, seam.height + seam.y - event.clientY))
}
const why = ref<InstanceType<typeof Popover>>()
const explanation = shallowRef<Explanation>()
const level = computed(() => picture.value?.level)
const decibels = (db: number) => (db < -150 ? '−∞' : db.toFixed(1).replace('-', '−'))
const trim = () => level.value && document.alter({ ask: 'trim_to', true_peak_db: level.value.true_peak_db })
</script>

<template>
  <main class="build" :class="{ narrow }">
    <p v-if="problem" class="problem" role="alert">Not opened: {{ problem }}. It is tried again. <button type="button" class="btn" @click="openNow">Try now</button></p>
    <section
      v-else-if="document.view && isOpen" ref="score" class="score" aria-label="The note, unfolded" :data-version="version" :data-latency="latencyMs.toFixed(1)"
      :style="{ gridTemplateRows: `var(--ruler) minmax(96px, 1fr) 24px ${resultPx}px` }"
    >
      <TimeRuler :axis="axis" :cursor-s="cursorS" :audition="document.view.audition" tabindex="0" @pointerdown="scrubFrom" @pointermove="scrub" @keydown="keyScrub" @wheel.prevent="zoom" />
      <ScoreRows :view="document.view" :picture="picture" :axis="axis" :cursor-s="cursorS" @scrub-from="scrubFrom" @scrub="scrub" @algorithms="openAlgorithms" />
      <div class="seam" title="Drag to share the room; double click lets the result take what is free" @pointerdown="seamDown" @pointermove="seamMove" @pointerup="seam = undefined" @dblclick="settings.resultHeight = 0">
        <span class="title">Result</span><span class="muted">spectrogram and loudness of the whole patch</span>
        <span class="levels" data-testid="levels">
          <template v-if="level">
            True peak <b :class="{ hot: level.true_peak_db > 0 }">{{ decibels(level.true_peak_db) }} dB</b>
            Loudness <b>{{ decibels(level.loudness_lufs) }} LUFS</b>
          </template>
        </span>
        <button type="button" class="link-btn" aria-haspopup="true" title="Which combination of operators makes which partial" @pointerdown.stop @click="why?.toggle($event)">Why it sounds so</button>
        <Popover ref="why"><PartialList v-if="explanation" :explanation="explanation" /></Popover>
        <button type="button" class="link-btn" title="Set the trim so that the true peak lies at −1 dB" @pointerdown.stop @click="trim">Trim to −1 dB</button>
      </div>
      <ResultPane
        :picture="picture" :version="version" :axis="axis" :cursor-s="cursorS" :release-s="document.view.audition.hold_s"
        @explained="explanation = $event" @pointerdown="scrubFrom" @pointermove="scrub"
      />
    </section>
    <p v-else class="opening" role="status">Opening…</p>
    <button v-if="narrow" type="button" class="btn opener" :aria-expanded="drawer" @click="drawer = !drawer">{{ drawer ? 'Close' : 'Inspector' }}</button>
    <aside v-show="!narrow || drawer" class="inspector" aria-label="Inspector">
      <template v-if="!isOpen" />
      <AlgorithmPanel v-else-if="document.view && choosing" @close="choosing = false" />
      <UnitInspector v-else-if="document.view && document.selectedStrip" :key="document.selectedStrip.id" :strip="document.selectedStrip" :view="document.view" />
      <VoiceInspector v-else-if="document.view" :view="document.view" />
    </aside>
  </main>
</template>

<style scoped>
.build { min-height: 0; display: grid; grid-template-columns: minmax(0, 1fr) var(--inspector); }
.score { position: relative; background: var(--sheet); display: grid; min-height: 0; overflow: hidden; }
.inspector { background: var(--paper); border-left: 1px solid var(--rule); min-height: 0; overflow-y: auto; }
.seam { display: flex; align-items: center; gap: 10px; padding-right: 14px; margin-left: var(--gutter); border-top: 4px solid var(--ink); cursor: row-resize; touch-action: none; user-select: none; }
.title { font-weight: 600; font-size: 14px; padding-left: 8px; }
.levels { margin-left: auto; color: var(--ink-2); white-space: pre-wrap; }
.levels b { color: var(--ink); margin-right: 6px; }
.levels .hot { color: var(--warn); }
.link-btn { min-height: 20px; }
.problem { padding: 24px; color: var(--warn); }
.opening { padding: 24px; color: var(--ink-3); }
.narrow { grid-template-columns: minmax(0, 1fr); position: relative; }
.narrow .inspector { position: absolute; right: 0; top: 0; bottom: 0; width: var(--inspector); z-index: 40; }
.opener { position: absolute; right: 8px; top: 1px; z-index: 41; }
</style>
