<script setup lang="ts">
/** The open patch over the life of the auditioned note: in Build its strips, in Move what moves them; the result, and the inspector. */
import { useElementSize, useMediaQuery } from '@vueuse/core'
import { computed, ref, shallowRef, watch } from 'vue'
import { useRoute } from 'vue-router'

import AddLine from './build/AddLine.vue'
import ScoreRows from './build/ScoreRows.vue'
import TimeRuler from './build/TimeRuler.vue'
import ChainRails from './finish/ChainRails.vue'
import EffectEditor from './finish/EffectEditor.vue'
import AddSource from './move/AddSource.vue'
import MoveRows from './move/MoveRows.vue'
import PatchInspector from './PatchInspector.vue'
import PhrasePanel from './phrase/PhrasePanel.vue'
import ResultSeam from './ResultSeam.vue'
import FieldMenu from '../components/field/FieldMenu.vue'
import DragHint from '../components/moving/DragHint.vue'
import ImportSound from '../components/sample/ImportSound.vue'
import ResultPane from '../components/score/ResultPane.vue'
import { useCursor } from '../composables/hand/useCursor'
import { NARROW, useDrawer } from '../composables/screen/useDrawer'
import { useDropped } from '../composables/hand/useDropped'
import { useGhosts } from '../composables/heard/useGhosts'
import { useHearWithout } from '../composables/hand/useHearWithout'
import { useSeam } from '../composables/hand/useSeam'
import { useSelecting } from '../composables/keys/useSelecting'
import { useShortcuts } from '../composables/keys/useShortcuts'
import { useOpening } from '../composables/screen/useOpening'
import { useTrim } from '../composables/heard/useTrim'
import { useUnfold } from '../composables/heard/useUnfold'
import { timeToX, type Axis } from '../draw/axis'
import { SIDE_PX } from '../draw/result'
import type { Spectrum } from '../engine/workers'
import type { ExplanationView } from '../engine/generated/ExplanationView'
import { useDocument } from '../stores/document'
import { useFinish } from '../stores/finish'
import { useMessages } from '../stores/messages'
import { useMoving } from '../stores/moving'
import { usePlaying } from '../stores/playing'
import { useSettings } from '../stores/settings'

const route = useRoute()
const messages = useMessages()
const document = useDocument()
const settings = useSettings()
const finish = useFinish()
const inFinish = computed(() => route.name === 'finish')
const moving = useMoving()
const playing = usePlaying()
const inMove = computed(() => route.name === 'move')
const { problem, isOpen, openNow } = useOpening()
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

watch(() => document.refusal, (why) => {
  if (why) messages.add({ severity: 'warn', summary: 'Not changed', detail: why, life: 6000 })
})

// on a narrow window the inspector is a drawer
const narrow = useMediaQuery(NARROW)
const drawer = useDrawer()
const choosing = ref(false)
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
const explanation = shallowRef<ExplanationView>()
const spectrum = shallowRef<Spectrum>()
const { trimming, trim } = useTrim()
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
      <ResultSeam
        v-model:why="why" class="seam" :picture="picture" :exact="isExact" :in-finish="inFinish" :trimming="trimming"
        @pointerdown="takeSeam" @dblclick="freeSeam" @trim="trim"
      />
      <TimeRuler v-if="inFinish" class="ruler" :axis="axis" :cursor-s="cursorS" :audition="(shown ?? document.view).audition" :beat-s="beatS" tabindex="0" @pointerdown="scrubFrom" @keydown="keyScrub" @wheel.prevent="zoom" />
      <ResultPane
        :picture="picture" :version="version" :axis="axis" :cursor-s="cursorS" :release-s="(shown ?? document.view).audition.hold_s" :finished="inFinish"
        @explained="explanation = $event" @seen="spectrum = $event" @pointerdown="scrubFrom"
      />
      <i v-if="playheadX !== undefined" class="playhead" :style="{ left: `calc(var(--side) + ${playheadX}px)` }" />
    </section>
    <p v-else class="opening" role="status">Opening…</p>
    <PatchInspector
      v-show="!narrow || drawer" v-model:why="why" v-model:choosing="choosing" :view="inFinish ? 'finish' : inMove ? 'move' : 'build'" :open="isOpen" :narrow="narrow"
      :picture="picture" :exact="isExact" :explanation="explanation" :trimming="trimming" @trim="trim"
    />
    <FieldMenu />
    <DragHint />
    <p v-if="over" class="dropping note">Let go to import the recording as a strip</p>
    <ImportSound ref="importer" v-model:visible="importing" :units="[]" />
  </main>
</template>

<style scoped>
.build { min-height: 0; display: grid; grid-template-columns: minmax(0, 1fr) var(--inspector); }
/* what changes inside lays out nothing outside */
.score { contain: layout size; }
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
.build { position: relative; }
.problem { padding: 24px; color: var(--warn); }
.opening { padding: 24px; color: var(--ink-3); }
.narrow { grid-template-columns: minmax(0, 1fr); position: relative; }
</style>
