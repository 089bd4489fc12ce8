<script setup lang="ts">
/** What is special to a unit of a kind: its choices and values. */
import { computed } from 'vue'

import ChoiceField from '../../components/field/ChoiceField.vue'
import ValueField from '../../components/field/ValueField.vue'
import type { StripView } from '../../engine/generated/StripView'
import { useDocument } from '../../stores/document'

const props = defineProps<{ strip: StripView; title: string }>()
const document = useDocument()
const values = computed(() => props.strip.values.filter((v) => v.address.param.startsWith(`${props.strip.kind}.`)))
</script>

<template>
  <section :data-testid="`${strip.kind}-part`">
    <h3>{{ title }} <span>{{ strip.hz }} {{ strip.note }}</span></h3>
    <ChoiceField v-for="choice in strip.choices" :key="choice.id" :choice="choice" :units="document.units" />
    <div class="two"><ValueField v-for="v in values" :key="v.address.param" :value="v" /></div>
  </section>
</template>

<style scoped>
.two { display: grid; grid-template-columns: 1fr 1fr; gap: 6px; }
</style>
