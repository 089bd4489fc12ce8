<script setup lang="ts">
/** The selected unit: what it is, sends, envelope, response. */
import Menu from '../../components/popupMenu'
import { computed, ref } from 'vue'

import EnvelopePart from './EnvelopePart.vue'
import PitchPart from './PitchPart.vue'
import SamplePart from './SamplePart.vue'
import SendRow from './SendRow.vue'
import SheetView from './SheetView.vue'
import WavePart from './WavePart.vue'
import NameField from '../../components/NameField.vue'
import ToggleSwitch from '../../components/ToggleSwitch.vue'
import { useInspect } from '../../composables/heard/useInspect'
import { useOffers } from '../../composables/heard/useOffers'
import { inkOf } from '../../draw/tokens'
import type { DocumentView } from '../../engine/generated/DocumentView'
import type { StripView } from '../../engine/generated/StripView'
import { useDocument } from '../../stores/document'

defineProps<{ view: DocumentView }>()
const document = useDocument()
/** The selected strip; the last one, for the moment until the inspector is gone with it. */
const strip = computed<StripView>((before) => (document.selectedStrip ?? before) as StripView)
const menu = ref<InstanceType<typeof Menu>>()
const routingMenu = ref<InstanceType<typeof Menu>>()
const inspected = useInspect(() => strip.value.id)

const free = useOffers('send', () => strip.value.id)
const routing = useOffers('place', () => strip.value.id)
</script>

<template>
  <div :style="{ '--c': inkOf(strip.id) }">
    <header>
      <span class="badge">{{ strip.id }}</span>
      <h2 class="title"><NameField :name="strip.name" label="Name of the strip" @rename="document.edit({ do: 'rename_unit', unit: strip.id, name: $event })" /></h2>
      <span class="spacer" />
      <ToggleSwitch :on="strip.on" label="On" @switch="document.edit({ do: 'switch_unit', unit: strip.id, on: $event })" />
    </header>
    <p v-if="document.others.length" class="role many" data-testid="many">{{ document.units.length }} strips selected: what is set here is set on all</p>
    <p v-else class="role muted">{{ strip.role }}</p>
    <p v-if="strip.ways.length" class="role" data-testid="ways">{{ strip.ways.join('; ') }}</p>
    <SheetView :sheet="strip.sheet" :values="strip.values" :choices="strip.choices" :units="document.units" :note="`${strip.hz} ${strip.note}`">
      <template #pitch="part"><PitchPart v-bind="part" :strip="strip" :inspected="inspected" :note-name="view.audition.name" /></template>
      <template #wave="part"><WavePart v-bind="part" :strip="strip" :wave="inspected?.wave ?? undefined" /></template>
      <template #sample="part"><SamplePart v-bind="part" :strip="strip" /></template>
      <template #route="{ section }">
        <section>
          <h3>{{ section.title }} <span>{{ section.note }}</span></h3>
          <SendRow v-for="send in strip.sends" :key="send.route" :send="send" :own="send.to === strip.id" />
          <p v-if="strip.sends.length === 0" class="muted">None: this strip leads nowhere.</p>
          <div class="line">
            <button type="button" class="link-btn" aria-haspopup="true" :disabled="free.length === 0" @click="menu?.toggle($event)">Add send</button>
            <span class="spacer" />
            <button type="button" class="link-btn" :aria-pressed="strip.bypassed" :title="strip.is_source ? 'For now, as if nothing moved this operator' : 'For now, everything passes unchanged; hold O for the same'" @click="document.toggle('bypassed', strip.id)">{{ strip.is_source ? (strip.bypassed ? 'Modulation held: let it go on' : 'Hold modulation') : (strip.bypassed ? 'Bypassed: let it work' : 'Bypass') }}</button>
          </div>
          <Menu ref="menu" :model="free" popup />
        </section>
      </template>
      <template #envelope="{ values }"><EnvelopePart :strip="strip" :values="values" /></template>
    </SheetView>
    <section class="line">
      <button type="button" class="btn" :disabled="view.full" @click="document.edit({ do: 'duplicate_units', units: document.units })">Duplicate</button>
      <button type="button" class="btn" @click="document.edit({ do: 'remove_unit', unit: strip.id })">Remove</button>
      <button type="button" class="btn" aria-haspopup="true" :disabled="view.strips.length < 2" @click="routingMenu?.toggle($event)">Place <i class="pi pi-angle-down" /></button>
      <Menu ref="routingMenu" :model="routing" popup />
    </section>
  </div>
</template>

<style scoped>
header { display: flex; align-items: center; gap: 8px; height: 38px; padding: 0 12px; }
.title { font-size: var(--fs-15); font-weight: 600; min-width: 0; display: flex; }
.many { color: var(--op1); font-weight: 600; }
.role { margin: -4px 12px 6px; font-size: var(--fs-11); }
.line { display: flex; gap: 6px; align-items: center; margin-top: 6px; }
section.line { margin-top: 0; flex-wrap: wrap; }
</style>
