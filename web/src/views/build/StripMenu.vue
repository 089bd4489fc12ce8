<script setup lang="ts">
/** What can be done to a strip, under the right button, the menu key or a long press: all its head and inspector can do. */
import ContextMenu from 'primevue/contextmenu'
import type { MenuItem } from 'primevue/menuitem'
import { computed, nextTick, ref } from 'vue'

import { useOffers } from '../../composables/heard/useOffers'
import { useDocument } from '../../stores/document'

const document = useDocument()
const menu = ref<InstanceType<typeof ContextMenu>>()
const adds = useOffers('add', () => document.selected)
const sends = useOffers('send', () => document.selected)
const places = useOffers('place', () => document.selected)
const strip = computed(() => document.selectedStrip)

async function rename(id: number) {
  await nextTick()
  window.document.querySelector(`[data-unit='${id}'] .called button`)?.dispatchEvent(new MouseEvent('dblclick'))
}
const items = computed<MenuItem[]>(() => {
  const one = strip.value
  if (!one) return []
  const { id } = one
  const units = document.units
  const many = units.length > 1 ? ` ${units.length}` : ''
  return [
    { label: 'Rename', command: () => void rename(id) },
    { label: one.on ? 'Switch off' : 'Switch on', command: () => void document.edit({ do: 'switch_unit', unit: id, on: !one.on }) },
    { label: one.muted ? 'Unmute' : 'Mute', command: () => document.toggleAll('muted', units, !one.muted) },
    { label: one.soloed ? 'End solo' : 'Solo', command: () => document.toggleAll('soloed', units, !one.soloed) },
    { label: one.is_source ? (one.bypassed ? 'Let modulation go on' : 'Hold modulation') : one.bypassed ? 'Let it work' : 'Bypass', command: () => document.toggle('bypassed', id) },
    { separator: true },
    { label: 'Add', disabled: document.view?.full, items: [{ label: 'Modulator', command: () => void document.edit({ do: 'add_unit', kind: 'operator', connect: { to: 'unit', id } }) }, ...adds.value] },
    { label: 'Send to', disabled: sends.value.length === 0, items: sends.value },
    { label: 'Place', disabled: places.value.length === 0, items: places.value },
    { separator: true },
    // as the keys do it: the clipboard is the browser's
    { label: `Copy${many}`, command: () => void window.document.execCommand('copy') },
    { label: `Duplicate${many}`, disabled: document.view?.full, command: () => void document.edit({ do: 'duplicate_units', units }) },
    { label: units.length > 1 ? `Group${many}` : 'Group', command: () => void document.edit({ do: 'group_units', units }) },
    { label: `Remove${many}`, command: () => void document.edit({ do: 'remove_unit', unit: id }) },
  ]
})
let opener: Element | null = null
/** The focus goes back where it came from. */
function hidden() {
  const now = window.document.activeElement
  if (opener instanceof HTMLElement && opener.isConnected && (now === window.document.body || now?.closest('.p-contextmenu'))) opener.focus()
}
/** Opens for a strip: for all that are selected where it is one of them. */
async function show(event: Event, id: number | null) {
  if (id === null) return
  if (!document.units.includes(id)) document.select(id)
  opener = window.document.activeElement
  await nextTick()
  menu.value?.show(event)
}
defineExpose({ show })
</script>

<template>
  <ContextMenu ref="menu" :model="items" @hide="hidden" :aria-label="`Strip ${strip?.name}`" :pt="{ root: { role: 'dialog', 'aria-label': `What can be done to ${strip?.name}` }, item: { 'aria-level': null } }" />
</template>
