<script setup lang="ts">
/** One send: where to, what it does there, the ratio as a pair, its depth; mute, solo, off and remove. */
import Menu from '../../components/popupMenu'
import { computed, ref } from 'vue'

import ValueField from '../../components/field/ValueField.vue'
import { inkOf } from '../../draw/tokens'
import type { SendView } from '../../engine/generated/SendView'
import { useDocument } from '../../stores/document'

const props = defineProps<{ send: SendView; own: boolean }>()
const document = useDocument()
const menu = ref<InstanceType<typeof Menu>>()
// by themselves: a menu is made anew only when they change
const route = computed(() => props.send.route)
const kinds = computed(() => props.send.kinds)
const places = computed(() => props.send.inserts)
const ways = computed(() =>
  kinds.value.map(({ kind, bus, label, help }) => ({
    label: `${label}: ${help}`,
    command: () => (bus === null ? kind !== null && document.edit({ do: 'set_route_kind', route: route.value, kind }) : document.edit({ do: 'set_bus', route: route.value, bus })),
  })),
)
const inserts = computed(() => places.value.map(({ label, edit }) => ({ label, command: () => document.edit(edit) })))
const acts = computed(() => [...ways.value, ...inserts.value])
const way = computed(() => props.send.kinds.find(({ kind, bus }) => kind === props.send.kind && bus === props.send.bus)?.label)
</script>

<template>
  <div class="send" :class="{ off: !send.on }" :data-send="send.route">
    <div class="top">
      <span class="badge" :style="{ '--c': send.to === null ? 'var(--ink)' : inkOf(send.to) }">{{ send.to ?? '→' }}</span>
      <span class="name">{{ own ? 'Feedback' : send.name }}</span>
      <span v-if="send.pair && !own" class="pair" title="Carrier to modulator">{{ send.pair }}</span>
      <span class="spacer" />
      <button type="button" class="way" aria-haspopup="true" :aria-label="`Route to ${send.name}: ${way}. Change`" @click="menu?.toggle($event)">{{ way }}<i class="pi pi-angle-down" /></button>
      <button type="button" class="tag" :class="{ on: send.muted }" :aria-pressed="send.muted" :aria-label="`Mute route to ${send.name}`" title="Mute this route for now" @click="document.toggle('muted_routes', send.route)"><span>M</span></button>
      <button type="button" class="tag" :class="{ on: send.soloed }" :aria-pressed="send.soloed" :aria-label="`Solo route to ${send.name}`" title="For now, only this route arrives there" @click="document.toggle('soloed_routes', send.route)"><span>S</span></button>
      <button type="button" class="tag" :aria-pressed="send.on" :aria-label="`Route to ${send.name} on`" :title="send.on ? 'Switch this route off' : 'Switch this route on'" @click="document.edit({ do: 'switch_route', route: send.route, on: !send.on })">
        <i class="pi" :class="send.on ? 'pi-circle-fill' : 'pi-circle'" />
      </button>
      <button type="button" class="tag" :aria-label="`Remove route to ${send.name}`" title="Remove this route" @click="document.edit({ do: 'remove_route', route: send.route })"><i class="pi pi-times" /></button>
    </div>
    <div class="depths"><ValueField v-for="value in send.values" :key="value.address.param" :value="value" :disabled="!send.on" inline /></div>
    <Menu ref="menu" :model="acts" popup />
  </div>
</template>

<style scoped>
.send { margin-bottom: 6px; }
.top { display: flex; gap: 2px; align-items: center; height: 24px; }
.name { overflow: hidden; text-overflow: ellipsis; white-space: nowrap; flex: 0 1 auto; min-width: 3.2em; padding-left: 3px; }
.pair { font-size: var(--fs-11); color: var(--ink-3); white-space: nowrap; padding-left: 4px; }
.way { display: inline-flex; gap: 2px; align-items: center; height: 24px; flex: 0 100 auto; min-width: 3.6em; white-space: nowrap; overflow: hidden; text-overflow: ellipsis; border: 0; background: none; cursor: pointer; color: var(--ink-2); padding: 0 2px; text-decoration: underline; }
.depths { display: flex; gap: 6px; }
.depths > * { flex: 1; }
.tag { width: 24px; height: 24px; padding: 0; border: 0; background: none; display: grid; place-items: center; cursor: pointer; color: var(--ink-2); flex: none; }
.tag span { width: 17px; height: 16px; font-size: var(--fs-11); line-height: 14px; border: 1px solid var(--hair-2); border-radius: var(--r); }
.tag.on span { background: var(--ink); color: var(--on-ink); border-color: var(--ink); }
.off .name { opacity: 0.5; }
.pi { font-size: 10px; }
</style>
