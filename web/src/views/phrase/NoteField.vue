<script setup lang="ts">
/** A value of the chosen notes: one click types. */
import TypedText from '../../components/field/TypedText.vue'
import type { NoteField } from '../../engine/generated/NoteField'
import { useDocument } from '../../stores/document'

const props = defineProps<{ label: string; field: NoteField; shown: string; notes: number[] }>()
const document = useDocument()
const take = (text: string) => document.tried({ ask: 'type_note', notes: props.notes, field: props.field, text })
</script>

<template>
  <div class="field">
    <span class="label">{{ label }}</span>
    <TypedText :shown="shown" :begin="shown.replace(/ beat$/, '')" :name="`${label} of the notes`" :take="take" />
  </div>
</template>

<style scoped>
.field { background: var(--field); border-radius: var(--r); padding: 2px 6px; min-width: 0; }
.label { display: block; font-size: var(--fs-11); line-height: 13px; color: var(--ink-3); }
</style>
