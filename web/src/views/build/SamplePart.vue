<script setup lang="ts">
/** What a sample plays, and which part of it. */
import { ref } from 'vue'

import Popover from '../../components/OwnPopover.vue'
import SheetPart from './SheetPart.vue'
import ImportSound from '../../components/sample/ImportSound.vue'
import SoundPicker from '../../components/sample/SoundPicker.vue'
import WaveformView from '../../components/sample/WaveformView.vue'
import type { ChoiceView } from '../../engine/generated/ChoiceView'
import type { SectionView } from '../../engine/generated/SectionView'
import type { StripView } from '../../engine/generated/StripView'
import type { ValueView } from '../../engine/generated/ValueView'
import { useDocument } from '../../stores/document'

defineProps<{ section: SectionView; values: ValueView[]; choices: ChoiceView[]; units: number[]; strip: StripView }>()
const document = useDocument()
const picker = ref<InstanceType<typeof Popover>>()
const importing = ref(false)
function bring() {
  picker.value?.hide()
  importing.value = true
}
</script>

<template>
  <SheetPart :section="section" :values="values" :choices="choices" :units="units" :note="`${strip.ratio} ${strip.hz} ${strip.note}`">
    <button type="button" class="btn name" aria-haspopup="true" :aria-label="`Recording: ${strip.wave_label}`" @click="picker?.toggle($event)">{{ strip.wave_label }}<i class="pi pi-angle-down" /></button>
    <WaveformView :strip="strip" />
    <Popover ref="picker" chooses label="Recordings to choose from"><SoundPicker :chosen="strip.wave_label" :units="document.units" @import="bring" /></Popover>
    <ImportSound v-model:visible="importing" :units="document.units" />
  </SheetPart>
</template>

<style scoped>
.name { width: 100%; justify-content: space-between; font-weight: 600; }
</style>
