<script setup lang="ts">
/** One send: where to, the ratio as a pair, its depth; off and remove. */
import ValueField from '../../components/field/ValueField.vue'
import { inkOf } from '../../draw/tokens'
import type { SendView } from '../../engine/generated/SendView'
import { useDocument } from '../../stores/document'

defineProps<{ send: SendView; own: boolean }>()
const document = useDocument()
</script>

<template>
  <div class="send" :class="{ off: !send.on }" :data-send="send.route">
    <div class="to">
      <span class="badge" :style="{ '--c': send.to === null ? 'var(--ink)' : inkOf(send.to) }">{{ send.to ?? '→' }}</span>
      <span class="name">{{ own ? 'Feedback' : send.name }}</span>
      <span v-if="send.pair && !own" class="pair" title="Carrier to modulator">{{ send.pair }}</span>
    </div>
    <ValueField v-for="value in send.values" :key="value.address.param" class="depth" :value="value" :disabled="!send.on" />
    <button type="button" class="icon-btn" :aria-pressed="send.on" :aria-label="`Route to ${send.name} on`" :title="send.on ? 'Switch this route off' : 'Switch this route on'" @click="document.edit({ do: 'switch_route', route: send.route, on: !send.on })">
      <i class="pi" :class="send.on ? 'pi-circle-fill' : 'pi-circle'" />
    </button>
    <button type="button" class="icon-btn" :aria-label="`Remove route to ${send.name}`" title="Remove this route" @click="document.edit({ do: 'remove_route', route: send.route })"><i class="pi pi-times" /></button>
  </div>
</template>

<style scoped>
.send { display: flex; gap: 4px; align-items: center; margin-bottom: 5px; }
.to { width: 78px; display: grid; grid-template-columns: auto 1fr; gap: 0 5px; align-items: center; }
.name { overflow: hidden; text-overflow: ellipsis; white-space: nowrap; }
.pair { grid-column: 2; font-size: var(--fs-11); color: var(--ink-3); white-space: nowrap; }
.depth { flex: 1; }
.off .name { opacity: 0.5; }
.pi { font-size: 10px; }
</style>
