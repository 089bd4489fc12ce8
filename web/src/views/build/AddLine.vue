<script setup lang="ts">
/** The line below the strips: what can be added, grouped, arranged; and what is only heard so for now. */
import Menu from 'primevue/menu'
import { ref } from 'vue'

import { useOffers } from '../../composables/useOffers'
import { inkOf } from '../../draw/tokens'
import type { DocumentView } from '../../engine/generated/DocumentView'
import { useDocument } from '../../stores/document'

defineProps<{ view: DocumentView }>()
const emit = defineEmits<{ algorithms: [] }>()
const document = useDocument()
const more = ref<InstanceType<typeof Menu>>()
const others = useOffers('add', () => document.selected)
function add(to: 'output' | number) {
  document.edit({ do: 'add_unit', kind: 'operator', connect: to === 'output' ? { to: 'output' } : { to: 'unit', id: to } })
}
defineExpose({ add })
</script>

<template>
  <div class="add">
    <button type="button" class="btn" :disabled="view.full" @click="add('output')">+ Carrier</button>
    <button v-if="document.selectedStrip" type="button" class="btn" :disabled="view.full" title="Add an operator that modulates the selected one (Insert)" @click="add(document.selectedStrip.id)">
      + Modulator <span class="badge" :style="{ '--c': inkOf(document.selectedStrip.id) }">{{ document.selectedStrip.id }}</span>
    </button>
    <button type="button" class="btn" aria-haspopup="true" :disabled="view.full" title="Noise, samples, filters and shapers" @click="more?.toggle($event)">+ More <i class="pi pi-angle-down" /></button>
    <Menu ref="more" :model="others" popup />
    <button v-if="document.others.length" type="button" class="btn" title="Name, fold, mute, solo and level the selected strips together" @click="document.edit({ do: 'group_units', units: document.units })">Group {{ document.units.length }}</button>
    <button type="button" class="btn" :disabled="view.strips.length < 2" title="Other arrangements of these operators" @click="emit('algorithms')">Algorithms</button>
    <span v-if="document.isListening" class="listening" data-testid="listening">
      Muted, soloed or bypassed for now
      <button type="button" class="link-btn" @click="document.hearAll()">Hear all</button>
    </span>
  </div>
</template>

<style scoped>
.add { position: absolute; left: 92px; right: 8px; display: flex; gap: 6px; align-items: center; }
.listening { color: var(--warn); font-weight: 600; margin-left: 12px; display: flex; gap: 8px; align-items: center; }
</style>
