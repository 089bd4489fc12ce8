<script setup lang="ts">
/** One end of a link: the lowest or highest value it comes to. Typing sets it, and the other end stays. */
import TypedText from '../field/TypedText.vue'
import type { LinkView } from '../../engine/generated/LinkView'
import { useDocument } from '../../stores/document'

const props = defineProps<{ link: LinkView; high: boolean }>()
const document = useDocument()
const take = (text: string) => document.tried({ ask: 'type_end', link: props.link.id, high: props.high, text })
</script>

<template>
  <div class="end">
    <span class="label">{{ high ? 'Highest' : 'Lowest' }}</span>
    <TypedText class="value" :shown="high ? link.high : link.low" :name="`${high ? 'Highest' : 'Lowest'} of ${link.target}`" :take="take" />
  </div>
</template>

<style scoped>
.end { background: var(--field); border-radius: var(--r); padding: 1px 6px; min-width: 0; min-height: 38px; }
.label { display: block; font-size: var(--fs-11); line-height: 13px; color: var(--ink-3); }
.value { font-size: var(--fs-12); }
</style>
