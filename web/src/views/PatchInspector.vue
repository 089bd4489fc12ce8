<script setup lang="ts">
/** What is selected, value by value: a strip, a source, an effect's levels, the patch; or why it sounds so. */
import { useElementSize } from '@vueuse/core'
import { computed, nextTick, ref, watch } from 'vue'

import AlgorithmPanel from './build/AlgorithmPanel.vue'
import UnitInspector from './build/UnitInspector.vue'
import VoiceInspector from './build/VoiceInspector.vue'
import LevelColumn from './finish/LevelColumn.vue'
import LinkList from './move/LinkList.vue'
import SourceInspector from './move/SourceInspector.vue'
import PartialList from '../components/score/PartialList.vue'
import { useGesture } from '../composables/hand/useGesture'
import type { ExplanationView } from '../engine/generated/ExplanationView'
import type { Unfolded } from '../engine/workers'
import { useDocument } from '../stores/document'
import { useSettings } from '../stores/settings'

const props = defineProps<{
  view: 'build' | 'move' | 'finish'
  open: boolean
  narrow: boolean
  picture: Unfolded | undefined
  exact: boolean
  explanation: ExplanationView | undefined
  trimming: boolean
}>()
const emit = defineEmits<{ trim: [] }>()
const why = defineModel<boolean>('why', { required: true })
const choosing = defineModel<boolean>('choosing', { required: true })

const document = useDocument()
const settings = useSettings()
// it is as wide as the hand makes it, and remembers where it was scrolled to for each kind of selection
const inspector = ref<HTMLElement>()
const INSPECTOR_PX = [240, 720] as const
const TWO_COLUMNS_PX = 520
const { width } = useElementSize(inspector)
const wide = computed(() => width.value >= TWO_COLUMNS_PX)
const { take: widen } = useGesture<number>({
  edits: false,
  move: ({ what: before, x }, event) => (settings.inspectorPx = Math.max(INSPECTOR_PX[0], Math.min(INSPECTOR_PX[1], before + x - event.clientX))),
})
const scrolls = new Map<string, number>()
/** Whether a strip is inspected: which, and what of it, is for its own sheet only. */
const ofStrip = computed(() => document.selectedStrip !== undefined)
const kind = computed(() => {
  if (props.view === 'finish') return 'effects'
  if (props.view === 'move') return document.selectedSource?.kind ?? 'links'
  return choosing.value ? 'algorithms' : (document.selectedStrip?.kind ?? 'patch')
})
watch(kind, (now, before) => {
  scrolls.set(before, inspector.value?.scrollTop ?? 0)
  void nextTick(() => inspector.value?.scrollTo(0, scrolls.get(now) ?? 0))
})
</script>

<template>
  <aside ref="inspector" class="inspector" :class="{ wide, overlaid: narrow }" aria-label="Inspector">
    <div
      v-if="!narrow" class="edge" role="separator" aria-orientation="vertical" aria-label="Width of the inspector"
      title="Drag to widen the inspector; double click: as it came"
      @pointerdown="widen($event, inspector?.offsetWidth ?? 0)" @dblclick="settings.inspectorPx = 0"
    />
    <template v-if="!open" />
    <PartialList v-else-if="why && explanation" :explanation="explanation" @close="why = false" />
    <LevelColumn v-else-if="document.view && view === 'finish'" :picture="picture" :exact="exact" :busy="trimming" @peak="emit('trim')" />
    <template v-else-if="document.view && view === 'move'">
      <SourceInspector v-if="document.selectedSource" :key="document.selectedSource.kind" :source="document.selectedSource" :view="document.view" />
      <LinkList v-else :view="document.view" />
    </template>
    <AlgorithmPanel v-else-if="document.view && choosing" @close="choosing = false" />
    <UnitInspector v-else-if="document.view && ofStrip" :view="document.view" />
    <VoiceInspector v-else-if="document.view" :view="document.view" />
  </aside>
</template>

<style scoped>
/* what changes inside lays out nothing outside */
.inspector { contain: layout size; position: relative; background: var(--paper); border-left: 1px solid var(--rule); min-height: 0; overflow-y: auto; overflow-x: hidden; }
.edge { position: sticky; float: left; top: 0; left: 0; width: 5px; height: 100%; margin-right: -5px; cursor: col-resize; touch-action: none; z-index: 3; }
.edge:hover { background: var(--hair-2); }
.wide > :deep(div:not(.edge)) { column-count: 2; column-gap: 0; }
.wide :deep(header), .wide :deep(.role) { column-span: all; }
.wide :deep(section) { break-inside: avoid; }
.overlaid { position: absolute; right: 0; top: 0; bottom: 0; width: var(--inspector); z-index: 40; }
</style>
