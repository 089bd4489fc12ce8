<script setup lang="ts">
/** The line below the strips, always in sight: what can be added, grouped, arranged. */
import Menu from '../../components/popupMenu'
import { computed, ref, useTemplateRef } from 'vue'

import LineInput from './LineInput.vue'
import SourceShelf from './SourceShelf.vue'
import { useFits } from '../../composables/screen/useFits'
import { useOffers } from '../../composables/heard/useOffers'
import { inkOf } from '../../draw/tokens'
import { useDocument } from '../../stores/document'

defineProps<{ full: boolean; count: number }>()
const emit = defineEmits<{ algorithms: [] }>()
const document = useDocument()
const more = ref<InstanceType<typeof Menu>>()
const others = useOffers('add', () => document.selected)
const all = computed(() => document.view?.sources)
const sources = computed(() => (all.value ?? []).filter(({ kind }) => kind !== 'macro'))
/** Sources for which there is no room. */
const leftOut = useFits(useTemplateRef('row'), () => sources.value.length, () => [...sources.value.map(({ name }) => name), ...document.units].join())
/** Whether something is selected. */
const some = computed(() => document.selectedStrip !== undefined)
/** Whether what is selected only moves others: one more is stacked on it. */
const ofModulator = computed(() => document.units.length === 1 && document.selectedStrip?.only_modulates === true)
const stacked = '; what is selected modulates others itself, so it is stacked on that: select what that moves for one beside it'
const carrier = () => document.edit({ do: 'add_unit', kind: 'operator', connect: { to: 'output' } })
/** One for all that are selected. */
function modulator() {
  if (document.selected !== null) document.edit({ do: 'add_unit', kind: 'operator', connect: { to: 'unit', id: document.selected } })
}
/** One for each. */
const modulators = () => document.edit({
  do: 'together',
  label: 'add modulators',
  edits: document.units.map((id) => ({ do: 'add_unit', kind: 'operator', connect: { to: 'unit', id } })),
})
defineExpose({ modulator })
</script>

<template>
  <div ref="row" class="add" role="toolbar" aria-label="Add">
    <button type="button" class="btn" :disabled="full" @click="carrier">+ Carrier</button>
    <button v-if="some" type="button" class="btn" :disabled="full" :title="`Add an operator that modulates what is selected (Insert)${ofModulator ? stacked : ''}`" @click="modulator">
      {{ ofModulator ? '+ Modulator on' : '+ Modulator' }} <span v-for="id in document.units.slice(0, 4)" :key="id" class="badge" :style="{ '--c': inkOf(id) }">{{ id }}</span><span v-if="document.units.length > 4">…</span>
    </button>
    <button v-if="document.others.length" type="button" class="btn" :disabled="full" title="Add a modulator for each of those selected" @click="modulators">One each</button>
    <button type="button" class="btn" aria-haspopup="true" :disabled="full" title="Noise, samples, filters, shapers and level strips" @click="more?.toggle($event)">+ More <i class="pi pi-angle-down" /></button>
    <Menu ref="more" :model="others" popup />
    <button v-if="document.others.length" type="button" class="btn" title="Name, fold, mute, solo and level the selected strips together" @click="document.edit({ do: 'group_units', units: document.units })">Group {{ document.units.length }}</button>
    <button type="button" class="btn" :disabled="count < 2" title="Other arrangements of these operators" @click="emit('algorithms')">Algorithms</button>
    <SourceShelf :sources="sources" :left-out="leftOut" />
    <LineInput />
  </div>
</template>

<style scoped>
.add { display: flex; gap: 6px; align-items: center; padding: 0 8px 0 calc(var(--gutter) + 8px); background: var(--sheet); border-top: 1px solid var(--hair); min-width: 0; overflow-x: auto; scrollbar-width: none; }
@media (max-width: 760px), (max-height: 560px) { .add { flex-wrap: wrap; padding-block: 4px; } }
</style>
