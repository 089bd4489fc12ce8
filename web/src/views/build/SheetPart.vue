<script setup lang="ts">
/** One section of a sheet: its choices, then its values; what is special stands in the slots around them. */
import { computed, ref, watch } from 'vue'

import ChoiceField from '../../components/field/ChoiceField.vue'
import ValueField from '../../components/field/ValueField.vue'
import { useUnfoldedParts } from '../../composables/screen/useUnfoldedParts'
import type { ChoiceView } from '../../engine/generated/ChoiceView'
import type { SectionView } from '../../engine/generated/SectionView'
import type { ValueView } from '../../engine/generated/ValueView'

const props = defineProps<{ section: SectionView; values: ValueView[]; choices: ChoiceView[]; units: number[]; note?: string }>()
const columns = computed(() => (props.values.length > 4 || props.values.length === 3 ? 3 : 2))
const shaped = computed(() => props.values.some((v) => v.changed) || props.choices.some((c) => c.at > 0))
// what is unfolded once stays unfolded on the next strip
const { unfolded, toggle } = useUnfoldedParts()
const folded = ref(false)
const open = computed(() => !props.section.folds || unfolded.has(props.section.id) || (shaped.value && !folded.value))
watch([() => props.units.join(), shaped], () => (folded.value = false))
function turn() {
  const opens = !open.value
  folded.value = !opens
  toggle(props.section.id, opens)
}
</script>

<template>
  <section :data-testid="`${section.id}-part`">
    <h3 v-if="section.folds" class="fold"><button type="button" class="unfold" :aria-expanded="open" @click="turn"><i class="pi" :class="open ? 'pi-angle-down' : 'pi-angle-right'" aria-hidden="true" /> {{ section.title }}</button><span>{{ note ?? section.note }}</span></h3>
    <h3 v-else>{{ section.title }} <span :data-testid="`${section.id}-note`">{{ note ?? section.note }}</span></h3>
    <template v-if="open">
      <slot />
      <ChoiceField v-for="choice in choices" :key="choice.id" :choice="choice" :units="units" />
      <div class="values" role="group" :aria-label="section.title" :style="{ '--columns': columns }"><ValueField v-for="v in values" :key="v.address.param" :value="v" /></div>
      <slot name="after" />
    </template>
  </section>
</template>

<style scoped>
.values { display: grid; grid-template-columns: repeat(var(--columns), 1fr); gap: 6px; }
.fold { align-items: center; }
.unfold { display: inline-flex; align-items: center; gap: 3px; min-height: var(--hit); margin: -6px 0; padding: 0; border: 0; background: none; font: inherit; color: inherit; cursor: pointer; }
.fold .pi { font-size: var(--fs-11); }
</style>
