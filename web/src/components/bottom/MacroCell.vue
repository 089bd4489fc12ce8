<script setup lang="ts">
/** A macro at the foot: where it stands, how much it moves, and a sign to be dropped on what it is to move. */
import ValueField from '../field/ValueField.vue'
import { useDropSource } from '../../composables/hand/useDropSource'
import type { MacroView } from '../../engine/generated/MacroView'
import { useMoving } from '../../stores/moving'

defineProps<{ knob: MacroView; chosen: boolean; learnt: string }>()
const moving = useMoving()
const emit = defineEmits<{ choose: [] }>()
const take = useDropSource()
</script>

<template>
  <div class="cell" :class="{ chosen }" :data-giver="knob.source" role="group" :aria-label="`Macro ${knob.name}`" :data-macro="knob.source" @focusin="emit('choose')" @pointerdown="emit('choose')" @pointerenter="moving.pointed = knob.source" @pointerleave="moving.pointed = undefined">
    <ValueField :value="knob.value" />
    <button type="button" class="grip" :title="`${knob.name}: drag onto a value, a strip or a rail and it moves that; click: what it moves`" @pointerdown.stop="take($event, knob.source, () => emit('choose'))" @keydown.enter="emit('choose')">
      {{ knob.links.length }} {{ knob.links.length === 1 ? 'target' : 'targets' }}<template v-if="learnt">, {{ learnt }}</template> <span class="sr">of {{ knob.name }}: what they are</span> <i class="pi pi-arrows-alt" aria-hidden="true" />
    </button>
  </div>
</template>

<style scoped>
.cell { position: relative; background: var(--field); border-radius: var(--r); min-width: 0; display: flex; flex-direction: column; }
.cell.chosen { outline: 1.5px solid var(--ink); background: var(--select); }
.cell :deep(.field) { background: none; min-height: 24px; padding: 1px 6px 4px; display: grid; grid-template-columns: minmax(0, 1fr) auto; align-items: baseline; gap: 4px; }
.cell :deep(.label) { font-size: var(--fs-12); font-weight: 600; color: var(--ink); line-height: 16px; }
.cell :deep(input.value) { width: 56px; }
.cell :deep(.track) { bottom: 0; }
.grip { all: unset; box-sizing: border-box; display: flex; gap: 4px; align-items: center; width: 100%; min-height: 24px; padding: 0 6px; font-size: var(--fs-11); color: var(--ink-3); cursor: grab; touch-action: none; white-space: nowrap; overflow: hidden; }
.grip i { margin-left: auto; font-size: 9px; }
.grip:focus-visible { outline: 2px solid var(--swept); }
</style>
