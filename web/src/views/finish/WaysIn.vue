<script setup lang="ts">
/** What leads into a chain, or past all of them; opened, which strips go this way. */
import { ref } from 'vue'

import Popover from '../../components/OwnPopover.vue'
import { inkOf } from '../../draw/tokens'
import type { Bus } from '../../engine/generated/Bus'
import { useDocument } from '../../stores/document'

const props = defineProps<{ from: string[]; bus?: Bus; none: string; past?: boolean }>()
const document = useDocument()
const menu = ref<InstanceType<typeof Popover>>()
const outs = () => document.view?.finish.outs ?? []
const send = (route: number) => props.bus && document.edit({ do: 'set_bus', route, bus: props.bus })
</script>

<template>
  <span class="from muted">
    <button v-if="bus" type="button" class="open" aria-haspopup="true" :title="from.length ? `From ${from.join(', ')}. Click: which strips go this way` : 'Click: which strips go this way'" @click="menu?.toggle($event)">{{ from.length ? `from ${from.join(', ')}${past ? ', past every effect' : ''}` : none }}</button>
    <template v-else>from {{ from.join(', ') }}</template>
    <Popover ref="menu" :pt="{ root: { 'aria-label': 'Strips that go this way' } }">
      <div class="ways">
        <p v-if="!outs().length" class="muted">No strip is heard yet.</p>
        <button v-for="out in outs()" :key="out.route" type="button" class="btn" :class="{ on: out.bus === bus }" :aria-pressed="out.bus === bus" @click="send(out.route)"><span class="badge" :style="{ '--c': inkOf(out.unit) }">{{ out.unit }}</span>{{ out.name }}</button>
      </div>
    </Popover>
  </span>
</template>

<style scoped>
.from { flex: 1; min-width: 0; overflow: hidden; text-overflow: ellipsis; white-space: nowrap; font-size: var(--fs-11); }
.open { max-width: 100%; overflow: hidden; text-overflow: ellipsis; border: 0; background: none; padding: 0; min-height: var(--hit); color: inherit; cursor: pointer; text-decoration: underline dotted; text-underline-offset: 2px; }
.ways { display: grid; gap: 4px; min-width: 160px; }
.ways .btn { justify-content: start; }
.ways p { margin: 0; }
</style>
