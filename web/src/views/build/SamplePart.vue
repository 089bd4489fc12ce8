<script setup lang="ts">
/** What a sample plays, and which part of it. */
import Popover from 'primevue/popover'
import { computed, ref } from 'vue'

import ChoiceField from '../../components/field/ChoiceField.vue'
import ValueField from '../../components/field/ValueField.vue'
import ImportSound from '../../components/sample/ImportSound.vue'
import SoundPicker from '../../components/sample/SoundPicker.vue'
import WaveformView from '../../components/sample/WaveformView.vue'
import type { StripView } from '../../engine/generated/StripView'
import { useDocument } from '../../stores/document'

const props = defineProps<{ strip: StripView }>()
const document = useDocument()
const picker = ref<InstanceType<typeof Popover>>()
const importing = ref(false)
const values = computed(() => props.strip.values.filter((v) => v.address.param.startsWith('sample.')))
function bring() {
  picker.value?.hide()
  importing.value = true
}
</script>

<template>
  <section data-testid="sample-part">
    <h3>Recording <span>{{ strip.ratio }} {{ strip.hz }} {{ strip.note }}</span></h3>
    <button type="button" class="btn name" aria-haspopup="true" :aria-label="`Recording: ${strip.wave_label}`" @click="picker?.toggle($event)">{{ strip.wave_label }}<i class="pi pi-angle-down" /></button>
    <WaveformView :strip="strip" />
    <ChoiceField v-for="choice in strip.choices" :key="choice.id" :choice="choice" :units="document.units" />
    <div class="three"><ValueField v-for="v in values" :key="v.address.param" :value="v" /></div>
    <Popover ref="picker"><SoundPicker :chosen="strip.wave_label" :units="document.units" @import="bring" /></Popover>
    <ImportSound v-model:visible="importing" :units="document.units" />
  </section>
</template>

<style scoped>
.name { width: 100%; justify-content: space-between; font-weight: 600; }
.three { display: grid; grid-template-columns: repeat(3, 1fr); gap: 6px; }
</style>
