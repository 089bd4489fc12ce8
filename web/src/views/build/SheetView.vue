<script setup lang="ts">
/** A sheet: all sections of a unit or of the patch, made from what the core says of them. A slot by a section's name replaces it; the note stands beside the first. */
import type { ChoiceView } from '../../engine/generated/ChoiceView'
import type { SectionView } from '../../engine/generated/SectionView'
import type { ValueView } from '../../engine/generated/ValueView'
import { computed } from 'vue'

import { share } from '../../engine/told'
import SheetPart from './SheetPart.vue'

const props = defineProps<{ sheet: SectionView[]; values: ValueView[]; choices: ChoiceView[]; units: number[]; note?: string }>()
/** The sections, where those that are as they were stay the same. */
const parts = computed<ReturnType<typeof part>[]>((before) => share(before, props.sheet.map(part)))
const part = (section: SectionView) => ({
  section,
  units: [...props.units],
  values: props.values.filter((v) => v.section === section.id),
  choices: props.choices.filter((c) => c.section === section.id),
})
</script>

<template>
  <template v-for="(one, n) in parts" :key="one.section.id">
    <slot :name="one.section.id" v-bind="one"><SheetPart v-bind="one" :note="n === 0 ? note : undefined" /></slot>
  </template>
</template>
