<script setup lang="ts">
/** Bending the cycle and spreading its harmonics; the picture above shows what comes of it. */
import { computed, ref, watch } from 'vue'

import ChoiceField from '../../components/field/ChoiceField.vue'
import ValueField from '../../components/field/ValueField.vue'
import type { StripView } from '../../engine/generated/StripView'
import { useDocument } from '../../stores/document'

const props = defineProps<{ strip: StripView; shaped: boolean }>()
const document = useDocument()
const open = ref(props.shaped)
watch(() => props.shaped, (shaped) => (open.value ||= shaped))
const of = (group: string) => props.strip.values.filter((v) => v.address.param.startsWith(`${group}.`))
const cycle = computed(() => of('cycle'))
const harmonics = computed(() => of('harmonics'))
const start = computed(() => props.strip.values.find((v) => v.address.param === 'operator.start_turns'))
</script>

<template>
  <div class="shape">
    <button type="button" class="link-btn" :aria-expanded="open" @click="open = !open">{{ open ? 'Shape of the cycle' : 'Shape the cycle and its harmonics' }}</button>
    <template v-if="open">
      <div class="three" role="group" aria-label="Shape of the cycle"><ValueField v-for="v in cycle" :key="v.address.param" :value="v" /></div>
      <h4>Harmonics</h4>
      <div class="three" role="group" aria-label="Harmonics"><ValueField v-for="v in harmonics" :key="v.address.param" :value="v" /></div>
      <h4>Start</h4>
      <ChoiceField v-for="choice in strip.choices" :key="choice.id" :choice="choice" :units="document.units" />
      <div class="three"><ValueField v-if="start" :value="start" /></div>
    </template>
  </div>
</template>

<style scoped>
.three { display: grid; grid-template-columns: repeat(3, 1fr); gap: 6px; }
h4 { margin: 6px 0 2px; font-size: var(--fs-11); font-weight: 400; color: var(--ink-3); }
</style>
