<script setup lang="ts">
/** A link in a few signs: whose value, which, which way, how far, brought in by what. */
import { computed } from 'vue'

import { inkOf } from '../../draw/tokens'
import type { LinkView } from '../../engine/generated/LinkView'
import { useMoving } from '../../stores/moving'

const moving = useMoving()
const props = defineProps<{ link: LinkView }>()
const ARROWS = { both: '↕', up: '↑', down: '↓' } as const
const arrow = computed(() => (props.link.turned ? '⇅' : ARROWS[props.link.direction]))
</script>

<template>
  <button type="button" tabindex="-1" class="chip" :class="{ off: !link.on || link.muted }" :title="`${link.target}: ${link.low} to ${link.high}${link.scaled_name ? `, brought in by ${link.scaled_name}` : ''}; click: all that moves it`" @click="moving.target = link.to">
    <span v-if="link.unit !== null && link.unit < 1000" class="badge small" :style="{ '--c': inkOf(link.unit) }">{{ link.unit }}</span>
    {{ link.short }} <b>{{ arrow }} {{ link.amount.number }}</b> {{ link.amount.unit }}<template v-if="link.scaled_name"> × {{ link.scaled_name }}</template>
  </button>
</template>

<style scoped>
.chip { all: unset; cursor: pointer; font-size: var(--fs-11); color: var(--ink-2); white-space: nowrap; }
.chip b { color: var(--ink); }
.small { min-width: 14px; height: 14px; font-size: 10px; }
.off { text-decoration: line-through; color: var(--ink-3); }
</style>
