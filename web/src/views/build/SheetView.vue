<script setup lang="ts">
/** A sheet: all sections of a unit or of the patch, made from what the core says of them. A slot by a section's name replaces it; the note stands beside the first. */
import type { ChoiceView } from '../../engine/generated/ChoiceView'
import type { SectionView } from '../../engine/generated/SectionView'
import type { ValueView } from '../../engine/generated/ValueView'
import SheetPart from './SheetPart.vue'

const props = defineProps<{ sheet: SectionView[]; values: ValueView[]; choices: ChoiceView[]; units: number[]; note?: string }>()
const part = (section: SectionView) => ({
  section,
  units: props.units,
  values: props.values.filter((v) => v.section === section.id),
  choices: props.choices.filter((c) => c.section === section.id),
})
</script>

<template>
  <template v-for="section in sheet" :key="section.id">
    <slot :name="section.id" v-bind="part(section)"><SheetPart v-bind="part(section)" :note="section === sheet[0] ? note : undefined" /></slot>
  </template>
</template>
