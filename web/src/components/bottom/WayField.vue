<script setup lang="ts">
/** What a macro's target is at one end of the macro. Typing sets it, and the other end stays. */
import TypedText from '../field/TypedText.vue'
import type { LinkView } from '../../engine/generated/LinkView'
import { useDocument } from '../../stores/document'

const props = defineProps<{ link: LinkView; high: boolean }>()
const document = useDocument()
const take = (text: string) => document.tried({ ask: 'type_way', link: props.link.id, high: props.high, text })
</script>

<template><TypedText class="end" :shown="high ? link.at_high : link.at_low" :name="`${link.target} at ${high ? '100 %' : '0 %'}`" :take="take" /></template>

<style scoped>.end { background: var(--sheet); border-radius: var(--r); padding: 0 5px; text-align: right; }</style>
