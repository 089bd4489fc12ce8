<script setup lang="ts">
/** The wave of the selected operators: step, choose, see, scan, draw. */
import Popover from '../../components/OwnPopover.vue'
import Dialog from '../../components/dialogs/modalDialog'
import { computed, ref } from 'vue'

import SheetPart from './SheetPart.vue'
import BarsEditor from '../../components/wave/BarsEditor.vue'
import CycleLine from '../../components/wave/CycleLine.vue'
import ImportTable from '../../components/wave/ImportTable.vue'
import WavePicker from '../../components/wave/WavePicker.vue'
import { inkOf } from '../../draw/tokens'
import type { ChoiceView } from '../../engine/generated/ChoiceView'
import type { SectionView } from '../../engine/generated/SectionView'
import type { StripView } from '../../engine/generated/StripView'
import type { ValueView } from '../../engine/generated/ValueView'
import type { WaveView } from '../../engine/generated/WaveView'
import { useDocument } from '../../stores/document'

const props = defineProps<{ section: SectionView; values: ValueView[]; choices: ChoiceView[]; units: number[]; strip: StripView; wave?: WaveView }>()
const document = useDocument()
const picker = ref<InstanceType<typeof Popover>>()
const drawing = ref(false)
const importing = ref(false)
const SHOWN = 32
const step = (steps: number) => document.alter({ ask: 'step_wave', units: document.units, steps })
const bars = computed(() => (props.wave?.partials ?? []).slice(0, SHOWN))
function importTable() {
  picker.value?.hide()
  importing.value = true
}
</script>

<template>
  <SheetPart :section="section" :values="values" :choices="choices" :units="units" :note="wave && wave.cycles > 1 ? `table of ${wave.cycles} cycles` : 'one cycle'">
    <div class="choose">
      <button type="button" class="btn" aria-label="Wave before" title="Wave before ([)" @click="step(-1)"><i class="pi pi-angle-left" /></button>
      <button type="button" class="btn name" aria-haspopup="true" :aria-label="`Wave: ${strip.wave_label}`" data-testid="wave" @click="picker?.toggle($event)">{{ strip.wave_label }}<i class="pi pi-angle-down" /></button>
      <button type="button" class="btn" aria-label="Next wave" title="Next wave (])" @click="step(1)"><i class="pi pi-angle-right" /></button>
    </div>
    <button v-if="wave" type="button" class="pictures" title="See and draw the harmonics" aria-label="Draw the harmonics" @click="drawing = true">
      <span class="cycles">
        <CycleLine :cycle="wave.cycle" :width="112" :height="46" :stroke="1.7" data-testid="cycle" />
        <CycleLine v-if="wave.shaped" class="before" :cycle="wave.plain" :width="112" :height="46" :stroke="1" />
      </span>
      <svg width="152" height="46" class="bars" aria-hidden="true">
        <rect v-for="(a, i) in bars" :key="i" :x="i * 4.75 + 0.5" :y="44 - 42 * a" width="3.2" :height="Math.max(a > 0 ? 1 : 0, 42 * a)" fill="currentColor" />
        <path d="M0 45H152" class="foot" />
      </svg>
    </button>
    <Popover ref="picker" chooses label="Waves to choose from"><WavePicker :chosen="strip.wave_label" :units="document.units" @import="importTable" /></Popover>
    <Dialog v-model:visible="drawing" :header="`Harmonics of ${strip.name}`" position="top" :style="{ '--c': inkOf(strip.id) }">
      <BarsEditor v-if="wave" :unit="strip.id" :wave="wave" :label="strip.wave_label" :own-bars="strip.has_bars" />
    </Dialog>
    <ImportTable v-model:visible="importing" :units="document.units" />
  </SheetPart>
</template>

<style scoped>
.choose { display: grid; grid-template-columns: 28px 1fr 28px; gap: 4px; }
.choose .btn { padding: 0; justify-content: center; }
.choose .name { justify-content: space-between; padding: 0 8px; font-weight: 600; overflow: hidden; }
.pictures { display: flex; gap: 8px; width: 100%; margin: 6px 0; padding: 3px; background: var(--sheet); border: 1px solid var(--hair-2); border-radius: var(--r); color: var(--c); cursor: pointer; }
.pictures:hover { border-color: var(--ink-3); }
.cycles { position: relative; }
.before { position: absolute; inset: 0; opacity: 0.35; }
.foot { stroke: var(--hair-2); }
</style>
