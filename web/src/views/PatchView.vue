<script setup lang="ts">
/** The open patch over the life of the auditioned note: in Build its strips, in Move what moves them; the result, and the inspector. */
import { useElementSize, useMediaQuery } from '@vueuse/core'
import { computed, nextTick, onUnmounted, ref, shallowRef, watch } from 'vue'
import { useRoute, useRouter } from 'vue-router'

import AddLine from './build/AddLine.vue'
import AlgorithmPanel from './build/AlgorithmPanel.vue'
import ScoreRows from './build/ScoreRows.vue'
import TimeRuler from './build/TimeRuler.vue'
import UnitInspector from './build/UnitInspector.vue'
import VoiceInspector from './build/VoiceInspector.vue'
import ChainRails from './finish/ChainRails.vue'
import EffectEditor from './finish/EffectEditor.vue'
import LevelColumn from './finish/LevelColumn.vue'
import AddSource from './move/AddSource.vue'
import LinkList from './move/LinkList.vue'
import MoveRows from './move/MoveRows.vue'
import SourceInspector from './move/SourceInspector.vue'
import PhrasePanel from './phrase/PhrasePanel.vue'
import FieldMenu from '../components/field/FieldMenu.vue'
import DragHint from '../components/moving/DragHint.vue'
import ImportSound from '../components/sample/ImportSound.vue'
import PartialList from '../components/score/PartialList.vue'
import ResultPane from '../components/score/ResultPane.vue'
import { useCursor } from '../composables/useCursor'
import { NARROW, useDrawer } from '../composables/useDrawer'
import { useDropped } from '../composables/useDropped'
import { useGesture } from '../composables/useGesture'
import { tellFirstLook } from '../composables/firstLook'
import { isOfPatch } from '../composables/isOfPatch'
import { useGhosts } from '../composables/useGhosts'
import { useHearWithout } from '../composables/useHearWithout'
import { useSeam } from '../composables/useSeam'
import { useSelecting } from '../composables/useSelecting'
import { useShortcuts } from '../composables/useShortcuts'
import { useUnfold } from '../composables/useUnfold'
import { timeToX, type Axis } from '../draw/axis'
import { SIDE_PX } from '../draw/result'
import { Refusal } from '../engine/api'
import { workers, Superseded, type Spectrum } from '../engine/workers'
import { soundsAtHand } from '../engine/sounds'
import type { ExplanationView } from '../engine/generated/ExplanationView'
import { useDocument } from '../stores/document'
import { useFinish } from '../stores/finish'
import { useMessages } from '../stores/messages'
import { useMoving } from '../stores/moving'
import { usePlaying } from '../stores/playing'
import { useSaving } from '../stores/saving'
import { useSettings } from '../stores/settings'

const route = useRoute()
const router = useRouter()
const messages = useMessages()
const document = useDocument()
const saving = useSaving()
const settings = useSettings()
const finish = useFinish()
const inFinish = computed(() => route.name === 'finish')
const moving = useMoving()
const playing = usePlaying()
const inMove = computed(() => route.name === 'move')
const problem = ref('')
/** Until the patch of the address is there nothing of another one is shown, and nothing can be done to it. */
const isOpen = computed(() => saving.id !== null && saving.id === Number(route.params.id))
const { picture, isExact, version, latencyMs } = useUnfold(inFinish, isOpen)
const score = ref<HTMLElement>()
const { width, height } = useElementSize(score)
const SCALE_PX = 50
// for those who measure; set from here, so that nothing is drawn anew for it
watch([latencyMs, score], ([{ ink, whole, exact }, pane]) => pane && Object.assign(pane.dataset, { inkMs: ink.toFixed(1), wholeMs: whole.toFixed(1), exactMs: exact.toFixed(1) }))

// numbers of their own, so that an edit that leaves them alone does not draw every strip anew
const windowS = computed(() => (settings.showsPhrase ? document.view?.phrase_window_s : document.view?.audition.window_s) ?? 3)
/** What is drawn: of a phrase its length, and no points of envelopes, which belong to one note. */
const shown = computed(() => {
  const view = document.view
  if (!view?.phrase || !settings.showsPhrase) return view
  const end = view.phrase.length_s
  return { ...view, audition: { ...view.audition, hold_s: end, end_s: view.phrase_window_s, window_s: view.phrase_window_s }, strips: view.strips.map((strip) => ({ ...strip, handles: [], cut: null })) }
})
const beatS = computed(() => (settings.showsPhrase ? 60 / (document.value('audition.tempo_bpm')?.value ?? 120) : undefined))
/** What the result keeps beside a phrase, where there is room. */
const PHRASED_RESULT_PX = [64, 150] as const
/** Ruler, strips at the least, the line to add and the seam. */
const OTHERS_PX = 156
const PHRASE_PX = { open: 242, none: 84 }
const phrasePx = computed(() => (settings.picture === 'phrase' ? (document.view?.phrase ? PHRASE_PX.open : PHRASE_PX.none) : 0))
/** What the result takes in Finish. */
const finishResultPx = computed(() => Math.max(90, Math.min(resultPx.value, height.value * 0.36)))
const shownResultPx = computed(() => {
  const [least, most] = PHRASED_RESULT_PX
  return phrasePx.value ? Math.max(least, Math.min(resultPx.value, most, height.value - OTHERS_PX - phrasePx.value)) : resultPx.value
})
/** Where what is played is now, over all that is drawn. */
const playheadX = computed(() => (playing.placeS === undefined ? undefined : timeToX(axis.value, playing.placeS)))
const axis = computed<Axis>(() => ({
  widthPx: Math.max(200, width.value - SIDE_PX - SCALE_PX),
  windowS: windowS.value,
  exponent: settings.exponent,
}))
const plotLeft = () => {
  const box = score.value?.getBoundingClientRect()
  return box && box.left - (score.value?.scrollLeft ?? 0) + SIDE_PX
}
const { timeS: cursorS, scrubFrom, key: keyScrub, zoom } = useCursor(axis, plotLeft)
const { resultPx, take: takeSeam, free: freeSeam } = useSeam(height)
useHearWithout()
useGhosts()
const line = ref<InstanceType<typeof AddLine>>()
useSelecting(() => line.value?.modulator(), inMove, inFinish)
// what fields show of movement: the picture, and the moment the cursor stands at
watch(picture, (now) => (moving.picture = finish.picture = now), { immediate: true })
watch(() => timeToX(axis.value, cursorS.value) / axis.value.widthPx, (share) => (moving.cursorShare = share), { immediate: true })

const RETRY_MS = 1500
let retry = 0
/** Opens the patch of the address. What is not there is told in the Library; a server that is gone is asked again. */
async function openNow() {
  const id = route.params.id
  const isHere = () => isOfPatch(route.name) && route.params.id === id
  window.clearTimeout(retry)
  if (!isOfPatch(route.name)) return
  // a patch is nothing without the core: it waits for nothing
  tellFirstLook()
  try {
    await document.start()
    if (!isHere()) return
    problem.value = (await saving.open(Number(id))) ?? ''
  } catch (error) {
    // an opening that was left says nothing
    if (!isHere()) return
    problem.value = error instanceof Error ? error.message : String(error)
    if (error instanceof Refusal && error.problem.status < 500) {
      messages.add({ severity: 'error', summary: 'Not opened', detail: problem.value, life: 6000 })
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
  if (why) messages.add({ severity: 'warn', summary: 'Not changed', detail: why, life: 6000 })
})

// on a narrow window the inspector is a drawer
const narrow = useMediaQuery(NARROW)
const drawer = useDrawer()
const choosing = ref(false)
// the inspector is as wide as the hand makes it, and remembers where it was scrolled to for each kind of selection
const inspector = ref<HTMLElement>()
const INSPECTOR_PX = [240, 720] as const
const TWO_COLUMNS_PX = 520
const { width: inspectorWidth } = useElementSize(inspector)
const wide = computed(() => inspectorWidth.value >= TWO_COLUMNS_PX)
const { take: widen } = useGesture<number>({
  edits: false,
  move: ({ what: before, x }, event) => (settings.inspectorPx = Math.max(INSPECTOR_PX[0], Math.min(INSPECTOR_PX[1], before + x - event.clientX))),
})
const scrolls = new Map<string, number>()
/** Whether a strip is inspected: which, and what of it, is for the inspector only. */
const ofStrip = computed(() => document.selectedStrip !== undefined)
const kind = computed(() => (inFinish.value ? 'effects' : inMove.value ? (document.selectedSource?.kind ?? 'links') : choosing.value ? 'algorithms' : (document.selectedStrip?.kind ?? 'patch')))
watch(kind, (now, before) => {
  scrolls.set(before, inspector.value?.scrollTop ?? 0)
  void nextTick(() => inspector.value?.scrollTo(0, scrolls.get(now) ?? 0))
})
function openAlgorithms() {
  choosing.value = !choosing.value
  drawer.value = true
}

// one key steps the wave while a note sounds
useShortcuts({
  down(event) {
    const steps = { BracketLeft: -1, BracketRight: 1 }[event.code]
    if (steps === undefined || event.ctrlKey || event.metaKey || event.altKey || document.units.length === 0 || inMove.value || inFinish.value) return
    document.alter({ ask: 'step_wave', units: document.units, steps })
  },
})

// a recording that is dropped here becomes a strip
const importing = ref(false)
const importer = ref<InstanceType<typeof ImportSound>>()
const over = useDropped(([file]) => file && isOpen.value && importer.value?.bring(file))

/** Why it sounds so, in place of the inspector. */
const why = ref(false)
const BESIDE = [
  { id: 'spectrum', help: 'The spectrum at the cursor, and what makes its partials' },
  { id: 'cycles', help: 'The waveform at the cursor, down to single cycles' },
  { id: 'stereo', help: 'Which frequencies stand where between left and right' },
] as const
const explanation = shallowRef<ExplanationView>()
const spectrum = shallowRef<Spectrum>()
/** What the picture shows: what leaves, or the voices alone. */
const showing = computed({
  get: () => (inFinish.value ? finish.inFinish : finish.inBuild),
  set: (shown) => (inFinish.value ? (finish.inFinish = shown) : (finish.inBuild = shown)),
})
const level = computed(() => picture.value?.level)
/** Of what the level is: where the voices alone are shown, not of what leaves. */
const measured = computed(() => `${settings.pictured}${showing.value === 'voice' && finish.effects.length ? ', before effects' : ''}`)
/** Whether it is measured what a file would hold. */
const trimming = ref(false)
/** By what a file would hold: the picture is made at another quality, and may be that of the voices alone. */
async function trim() {
  const view = document.view
  if (!view || trimming.value) return
  trimming.value = true
  const before = document.edits
  try {
    await soundsAtHand(view.sounds)
    const beat = view.choices.find(({ id }) => id === 'playing.beat')?.at
    const what = settings.showsPhrase ? (beat ? 'beat' : 'phrase') : 'note'
    const { level: file, of } = await workers().level(document.text(), view.listening, what)
    if (document.edits !== before) return
    const why = document.tried({ ask: 'trim_to', true_peak_db: file.true_peak_db })
    const trimmed = document.value('voice.trim_db')
    const words = trimmed && `Level ${trimmed.number} ${trimmed.unit}: ${of} peaked at ${file.true_peak}`
    if (why) messages.add({ severity: 'warn', summary: 'Peak not set', detail: why, life: 6000 })
    else if (trimmed?.place === 1) messages.add({ severity: 'warn', summary: 'As loud as it goes', detail: `${words}; the level is at its highest, so it stays below −1 dB.`, life: 8000 })
    else messages.add({ severity: 'info', summary: 'Peak at −1 dB', detail: `${words}.`, life: 5000 })
  } catch (error) {
    if (!(error instanceof Superseded)) document.refusal = error instanceof Error ? error.message : String(error)
  } finally {
    trimming.value = false
  }
}
</script>

<template>
  <main class="build" :class="{ narrow }" :style="settings.inspectorPx ? { '--inspector': `${settings.inspectorPx}px` } : undefined">
    <p v-if="problem" class="problem" role="alert">Not opened: {{ problem }}. It is tried again. <button type="button" class="btn" @click="openNow">Try now</button></p>
    <section
      v-else-if="document.view && isOpen" ref="score" class="score" aria-label="The note, unfolded" :data-version="version" :data-exact="isExact"
      :class="{ finish: inFinish }" :style="{ gridTemplateRows: inFinish ? `minmax(0, 1fr) 26px var(--ruler) ${finishResultPx}px` : `var(--ruler) minmax(72px, 1fr) var(--add) ${phrasePx ? `${phrasePx}px ` : ''}24px ${shownResultPx}px` }"
    >
      <template v-if="inFinish">
        <ChainRails class="rails" />
        <EffectEditor class="effect" :spectrum="spectrum" />
      </template>
      <template v-else>
        <TimeRuler :axis="axis" :cursor-s="cursorS" :audition="(shown ?? document.view).audition" :sources="inMove" :beat-s="beatS" tabindex="0" @pointerdown="scrubFrom" @keydown="keyScrub" @wheel.prevent="zoom" />
        <template v-if="inMove">
          <MoveRows :view="shown ?? document.view" :picture="picture" :axis="axis" :cursor-s="cursorS" @scrub-from="scrubFrom" />
          <AddSource />
        </template>
        <template v-else>
          <ScoreRows :view="shown ?? document.view" :picture="picture" :axis="axis" :cursor-s="cursorS" @scrub-from="scrubFrom" />
          <AddLine ref="line" :full="document.view.full" :count="document.view.strips.length" @algorithms="openAlgorithms" />
        </template>
      </template>
      <PhrasePanel v-if="settings.picture === 'phrase' && !inFinish" :view="document.view" :axis="axis" :cursor-x="timeToX(axis, cursorS)" />
      <div class="seam" title="Drag to share the room; double click lets the result take what is free" @pointerdown="takeSeam" @dblclick="freeSeam">
        <span class="title">Result</span>
        <span v-if="finish.effects.length" class="seg" role="group" aria-label="What the result shows" @pointerdown.stop>
          <button type="button" :aria-pressed="showing === 'voice'" title="The voices, before all effects" @click="showing = 'voice'">voice</button>
          <button type="button" :aria-pressed="showing === 'finished'" title="What leaves, after all effects" @click="showing = 'finished'">finished</button>
        </span>
        <span v-if="!inFinish" class="seg beside" role="group" aria-label="What stands beside the result" @pointerdown.stop>
          <button v-for="one in BESIDE" :key="one.id" type="button" :aria-pressed="settings.beside === one.id" :title="one.help" @click="settings.beside = one.id">{{ one.id }}</button>
        </span>
        <span class="muted what">{{ inFinish ? 'gain reduction, spectrogram, loudness' : '' }}</span>
        <span class="levels" data-testid="levels">
          <template v-if="level && !inFinish">
            <span class="word">True peak of {{ measured }} </span><b :class="{ hot: level.over, stale: !isExact }" :title="`True peak of ${measured}`">{{ level.true_peak }}</b>
            <span class="word">Loudness </span><b :class="{ stale: !isExact }" :title="`Loudness of ${measured}`">{{ level.loudness }}</b>
          </template>
        </span>
        <button type="button" class="link-btn" :aria-expanded="why" title="Which combination of operators makes which partial" @pointerdown.stop @click="why = !why">Partials explained</button>
        <button v-if="!inFinish" type="button" class="link-btn" :aria-busy="trimming" :title="`Sets the patch's level so that a file of ${settings.pictured}, with all effects, peaks at −1 dB`" @pointerdown.stop @click="trim">{{ trimming ? 'Measuring…' : 'Set peak to −1 dB' }}</button>
      </div>
      <TimeRuler v-if="inFinish" class="ruler" :axis="axis" :cursor-s="cursorS" :audition="(shown ?? document.view).audition" :beat-s="beatS" tabindex="0" @pointerdown="scrubFrom" @keydown="keyScrub" @wheel.prevent="zoom" />
      <ResultPane
        :picture="picture" :version="version" :axis="axis" :cursor-s="cursorS" :release-s="(shown ?? document.view).audition.hold_s" :finished="inFinish"
        @explained="explanation = $event" @seen="spectrum = $event" @pointerdown="scrubFrom"
      />
      <i v-if="playheadX !== undefined" class="playhead" :style="{ left: `calc(var(--side) + ${playheadX}px)` }" />
    </section>
    <p v-else class="opening" role="status">Opening…</p>
    <aside v-show="!narrow || drawer" ref="inspector" class="inspector" :class="{ wide }" aria-label="Inspector">
      <div v-if="!narrow" class="edge" role="separator" aria-orientation="vertical" aria-label="Width of the inspector" title="Drag to widen the inspector; double click: as it came" @pointerdown="widen($event, inspector?.offsetWidth ?? 0)" @dblclick="settings.inspectorPx = 0" />
      <template v-if="!isOpen" />
      <PartialList v-else-if="why && explanation" :explanation="explanation" @close="why = false" />
      <LevelColumn v-else-if="document.view && inFinish" :picture="picture" :exact="isExact" :busy="trimming" @peak="trim" />
      <template v-else-if="document.view && inMove">
        <SourceInspector v-if="document.selectedSource" :key="document.selectedSource.kind" :source="document.selectedSource" :view="document.view" />
        <LinkList v-else :view="document.view" />
      </template>
      <AlgorithmPanel v-else-if="document.view && choosing" @close="choosing = false" />
      <UnitInspector v-else-if="document.view && ofStrip" :view="document.view" />
      <VoiceInspector v-else-if="document.view" :view="document.view" />
    </aside>
    <FieldMenu />
    <DragHint />
    <p v-if="over" class="dropping note">Let go to import the recording as a strip</p>
    <ImportSound ref="importer" v-model:visible="importing" :units="[]" />
  </main>
</template>

<style scoped>
.build { min-height: 0; display: grid; grid-template-columns: minmax(0, 1fr) var(--inspector); }
/* what changes inside of them lays out nothing outside */
.score, .inspector { contain: layout size; }
.score { position: relative; background: var(--sheet); display: grid; min-height: 0; overflow: hidden; }
.finish { grid-template-columns: var(--side) minmax(0, 1fr); }
.finish > .rails { grid-column: 1; grid-row: 1 / -1; z-index: 2; }
.finish > .effect { grid-column: 2; grid-row: 1; }
.finish > .seam { grid-column: 2; grid-row: 2; margin-left: 0; }
.finish > .ruler { grid-column: 1 / -1; grid-row: 3; }
.finish > .result { grid-column: 1 / -1; grid-row: 4; }
@media (max-width: 760px), (max-height: 560px) {
  .score { overflow-x: auto; grid-template-columns: minmax(586px, 1fr); }
  .finish { grid-template-columns: var(--side) minmax(320px, 1fr); }
}
.playhead { position: absolute; top: var(--ruler); bottom: 0; width: 1px; background: var(--swept); pointer-events: none; z-index: 4; }
.inspector { position: relative; background: var(--paper); border-left: 1px solid var(--rule); min-height: 0; overflow-y: auto; overflow-x: hidden; }
.edge { position: sticky; float: left; top: 0; left: 0; width: 5px; height: 100%; margin-right: -5px; cursor: col-resize; touch-action: none; z-index: 3; }
.edge:hover { background: var(--hair-2); }
.wide > :deep(div:not(.edge)) { column-count: 2; column-gap: 0; }
.wide :deep(header), .wide :deep(.role) { column-span: all; }
.build { position: relative; }
.wide :deep(section) { break-inside: avoid; }
.seam { display: flex; align-items: center; gap: 10px; padding-right: 14px; margin-left: var(--gutter); border-top: 4px solid var(--ink); cursor: row-resize; touch-action: none; user-select: none; }
.title { font-weight: 600; font-size: 14px; padding-left: 8px; }
.seam { white-space: nowrap; overflow: hidden; }
.seam > .seg { flex: none; height: 20px; }
.what { overflow: hidden; text-overflow: ellipsis; min-width: 0; }
.levels { flex: none; }
@media (max-width: 1200px) { .what, .word { display: none; } }
.word { margin-right: 4px; }
@media (max-width: 800px) { .beside { display: none; } }
.levels { margin-left: auto; color: var(--ink-2); white-space: pre-wrap; }
.levels b { color: var(--ink); margin-right: 6px; }
.levels .hot { color: var(--warn); }
.levels .stale { font-style: italic; font-weight: 400; color: var(--ink-2); }
.link-btn { min-height: 20px; }
.problem { padding: 24px; color: var(--warn); }
.opening { padding: 24px; color: var(--ink-3); }
.narrow { grid-template-columns: minmax(0, 1fr); position: relative; }
.narrow .inspector { position: absolute; right: 0; top: 0; bottom: 0; width: var(--inspector); z-index: 40; }
</style>
