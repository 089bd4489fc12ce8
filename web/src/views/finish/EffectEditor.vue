<script setup lang="ts">
/** The selected effect, large: the spectrum before and after it, its curve, and all its values; nothing selected: what to do. */
import { computed, ref } from 'vue'

import BandCells from './BandCells.vue'
import BendPicture from './BendPicture.vue'
import EffectGraph from './EffectGraph.vue'
import ReadySettings from './ReadySettings.vue'
import SheetView from '../build/SheetView.vue'
import ShapeEditor from '../move/ShapeEditor.vue'
import NameField from '../../components/NameField.vue'
import { useClip } from '../../composables/keys/useClip'
import { useHeld } from '../../composables/hand/useHeld'
import type { Spectrum } from '../../engine/workers'
import { useDocument } from '../../stores/document'
import { useFinish } from '../../stores/finish'

defineProps<{ spectrum?: Spectrum }>()
const document = useDocument()
const finish = useFinish()
const effect = computed(() => finish.effect)
const { copy } = useClip('effects')
function copyIt() {
  if (!effect.value) return
  const answer = document.ask({ ask: 'copy_effects', effects: [effect.value.id] })
  if (answer.is === 'text') copy(answer.text)
}
/** Without it, for as long as it is held, at the loudness there is with it. */
const held = useHeld()
const ready = ref(false)
/** Where effects are added with none selected: the selected chain, or the common one. */
const here = computed(() => finish.chain ?? finish.chains[2])
</script>

<template>
  <div class="editor" data-testid="effect-editor">
    <template v-if="effect">
      <header>
        <h2 class="title"><NameField :name="effect.title" label="Name of the effect" @rename="document.edit({ do: 'rename_effect', effect: effect.id, name: $event })" /></h2>
        <span class="muted where">{{ finish.chain?.name }}, {{ (finish.chain?.effects.findIndex(({ id }) => id === effect!.id) ?? 0) + 1 }} of {{ finish.chain?.effects.length }}</span>
        <span class="key"><i class="before" />before<i class="line" />after<template v-if="effect.curve.length"><i class="line thick" />curve</template></span>
        <span class="spacer" />
        <button type="button" class="btn" aria-haspopup="true" :aria-expanded="ready" @click="ready = !ready">Settings</button>
        <button type="button" class="btn" :class="{ on: held.holding.value }" title="While held: without it, as loud as with it (O)" @pointerdown="held.press([effect.id])" @pointerup="held.release()" @pointercancel="held.release()" @keydown.enter.prevent="held.press([effect.id])" @keyup.enter="held.release()">Hold to hear without</button>
        <button type="button" class="icon-btn" title="Duplicate (Ctrl+D)" aria-label="Duplicate" @click="document.edit({ do: 'duplicate_effect', effect: effect.id })"><i class="pi pi-clone" /></button>
        <button type="button" class="icon-btn" title="Copy, also for another chain or patch (Ctrl+C)" aria-label="Copy" @click="copyIt"><i class="pi pi-copy" /></button>
        <button type="button" class="icon-btn" title="Remove (Delete)" aria-label="Remove" @click="document.edit({ do: 'remove_effect', effect: effect.id })"><i class="pi pi-trash" /></button>
      </header>
      <ReadySettings v-if="ready" :key="effect.id" :effect="effect" @done="ready = false" />
      <p v-if="effect.note" class="muted note">{{ effect.note }}</p>
      <EffectGraph :effect="effect" :spectrum="spectrum" />
      <BandCells v-if="effect.bands.length" :effect="effect" />
      <div class="sheet" :class="{ flat: effect.bands.length > 0, pictured: effect.bend ?? effect.drawn }">
        <BendPicture v-if="effect.bend" :bend="effect.bend" :peak="finish.levels.get(effect.id)?.peak_gain" />
        <div v-if="effect.drawn" class="drawn"><ShapeEditor :source="effect.id" :shape="effect.drawn" /></div>
        <SheetView :sheet="effect.sheet" :values="effect.values" :choices="effect.choices" :units="[effect.id]" />
      </div>
    </template>
    <div v-else class="empty">
      <h2>{{ finish.effects.length ? 'Choose an effect at the left' : 'No effects yet' }}</h2>
      <p class="muted">The voices go into <b>{{ finish.chains[0]?.name }}</b> or <b>{{ finish.chains[1]?.name }}</b>, both into <b>{{ finish.chains[2]?.name }}</b>; what is sent clean goes past all of them. Which way a strip goes is chosen at its send in Build.</p>
      <div class="start">
        <button v-for="{ kind, label, help } in document.effectKinds" :key="kind" type="button" class="btn" :title="help" @click="document.edit({ do: 'add_effect', chain: here?.id ?? 'common', kind, at: null })">+ {{ label }}</button>
      </div>
      <p class="muted">Added to {{ here?.name }}; every effect arrives gently.</p>
    </div>
  </div>
</template>

<style scoped>
.editor { display: flex; flex-direction: column; min-height: 0; min-width: 0; overflow: hidden; background: var(--sheet); }
header { display: flex; align-items: center; gap: 8px; height: 34px; padding: 0 10px; flex: none; white-space: nowrap; min-width: 0; }
.title { font-size: var(--fs-15); min-width: 3em; display: flex; }
.where { flex: 0 20 auto; min-width: 0; font-size: var(--fs-11); overflow: hidden; text-overflow: ellipsis; }
.note { margin: 0 10px 3px; font-size: var(--fs-11); flex: none; }
.key { display: inline-flex; align-items: center; gap: 4px; font-size: var(--fs-11); color: var(--ink-2); }
.key i { width: 18px; height: 8px; margin-left: 6px; }
.before { background: var(--hair-2); opacity: 0.8; }
.line { border-top: 1px solid var(--ink-2); height: 0 !important; }
.line.thick { border-top: 2.5px solid var(--ink); }
.sheet { overflow-y: auto; min-height: 0; flex: 0 1 auto; max-height: 56%; border-top: 1px solid var(--hair); display: grid; grid-template-columns: minmax(0, 1fr); align-content: start; }
.sheet > :deep(section), .drawn { padding: 5px 10px 7px; min-width: 0; }
/* values take all the width there is, choices stand side by side over them */
.sheet > :deep(section) { display: flex; flex-wrap: wrap; align-items: center; gap: 4px 16px; }
.sheet > :deep(section h3) { flex: 1 0 100%; }
.sheet > :deep(section .choice) { margin: 0 0 2px; justify-content: start; }
.sheet > :deep(section .choice.many) { display: flex; }
.sheet > :deep(section .values) { flex: 1 0 100%; grid-template-columns: repeat(auto-fill, minmax(92px, 1fr)); }
.pictured { grid-template-columns: 190px minmax(0, 1fr); }
.pictured:has(.drawn) { grid-template-columns: 290px minmax(0, 1fr); }
.pictured > .bend, .pictured > .drawn { grid-column: 1; }
.pictured > .bend { grid-row: 1 / span 3; align-self: start; }
.pictured > .bend + .drawn { grid-row: 4; }
.pictured > :deep(section) { grid-column: 2; }
.flat > :deep(section), .sheet > :deep(section:last-child) { flex-wrap: nowrap; gap: 10px; padding: 3px 10px 5px; }
.flat > :deep(section h3), .sheet > :deep(section:last-child h3) { flex: none; width: 150px; margin: 0; display: block; }
.pictured > :deep(section:last-child h3) { width: auto; }
.pictured > :deep(section:last-child h3 span) { display: none; }
.flat > :deep(section .values), .sheet > :deep(section:last-child .values) { flex: 1; }
.sheet > :deep(section h3) { margin: 0 0 4px; font-size: var(--fs-12); font-weight: 600; display: flex; justify-content: space-between; }
.sheet > :deep(section h3 span) { font-weight: 400; font-size: var(--fs-11); color: var(--ink-3); }
.empty { padding: 22px 26px; max-width: 620px; }
.empty h2 { font-size: var(--fs-15); }
.start { display: flex; flex-wrap: wrap; gap: 6px; }
@media (max-width: 1180px) { .key { display: none; } }
</style>
