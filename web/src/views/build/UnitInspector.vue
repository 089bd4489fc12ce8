<script setup lang="ts">
/** The selected unit: what it is, sends, envelope, response. */
import Menu from 'primevue/menu'
import { computed, ref } from 'vue'

import EnvelopePart from './EnvelopePart.vue'
import KindPart from './KindPart.vue'
import PitchPart from './PitchPart.vue'
import SamplePart from './SamplePart.vue'
import SendRow from './SendRow.vue'
import WavePart from './WavePart.vue'
import NameField from '../../components/NameField.vue'
import ToggleSwitch from '../../components/ToggleSwitch.vue'
import ValueField from '../../components/field/ValueField.vue'
import { useInspect } from '../../composables/useInspect'
import { inkOf } from '../../draw/tokens'
import type { DocumentView } from '../../engine/generated/DocumentView'
import type { ParamId } from '../../engine/generated/ParamId'
import type { StripView } from '../../engine/generated/StripView'
import { useDocument } from '../../stores/document'

const props = defineProps<{ strip: StripView; view: DocumentView }>()
const document = useDocument()
const menu = ref<InstanceType<typeof Menu>>()
const routingMenu = ref<InstanceType<typeof Menu>>()
const inspected = useInspect(() => props.strip.id)

const TITLES = { operator: 'Operator', sample: 'Sample', noise: 'Noise', filter: 'Filter', shaper: 'Shaper' }
const value = (param: ParamId) => props.strip.values.find((v) => v.address.param === param)
const some = (params: ParamId[]) => params.map(value).filter((v) => v !== undefined)
const response = computed(() => some(['unit.velocity', 'unit.velocity_times', 'unit.key_level_db', 'unit.key_times']))

const free = computed(() => {
  const taken = props.strip.sends.map((send) => send.to)
  const units = props.view.strips.filter((other) => !taken.includes(other.id))
  const items = units.map((other) => ({
    label: other.id === props.strip.id ? 'Itself (feedback)' : `${other.id} ${other.name}`,
    command: () => document.edit({ do: 'add_route', from: props.strip.id, to: other.id, kind: other.takes[0] }),
  }))
  const output = { label: 'Output', command: () => document.edit({ do: 'add_route', from: props.strip.id, to: null, kind: 'phase' }) }
  return taken.includes(null) ? items : [...items, output]
})
const routing = computed(() => {
  const rest = props.view.strips.filter((other) => other.id !== props.strip.id)
  const named = (other: StripView) => `${other.id} ${other.name}`
  const carrier = props.strip.sends.some((send) => send.to === null)
  const items = [
    { label: 'Swap places with', items: rest.map((other) => ({ label: named(other), command: () => document.edit({ do: 'swap_units', unit: props.strip.id, with: other.id }) })) },
    { label: 'Make it a modulator of', items: rest.map((other) => ({ label: named(other), command: () => document.edit({ do: 'make_modulator', unit: props.strip.id, of: other.id }) })) },
  ]
  return carrier ? items : [{ label: 'Routing', items: [{ label: 'Make it a carrier', command: () => document.edit({ do: 'make_carrier', unit: props.strip.id }) }] }, ...items]
})
</script>

<template>
  <div :style="{ '--c': inkOf(strip.id) }">
    <header>
      <span class="badge">{{ strip.id }}</span>
      <span class="title"><NameField :name="strip.name" label="Name of the strip" @rename="document.edit({ do: 'rename_unit', unit: strip.id, name: $event })" /></span>
      <span class="spacer" />
      <ToggleSwitch :on="strip.on" label="On" @switch="document.edit({ do: 'switch_unit', unit: strip.id, on: $event })" />
    </header>
    <p v-if="document.others.length" class="role many" data-testid="many">{{ document.units.length }} strips selected: what is set here is set on all</p>
    <p v-else class="role muted">{{ strip.role }}</p>
    <p v-if="strip.ways.length" class="role" data-testid="ways">{{ strip.ways.join('; ') }}</p>
    <template v-if="strip.kind === 'operator'">
      <PitchPart :strip="strip" :inspected="inspected" :note-name="view.audition.name" />
      <WavePart :strip="strip" :wave="inspected?.wave ?? undefined" />
    </template>
    <SamplePart v-else-if="strip.kind === 'sample'" :strip="strip" />
    <KindPart v-else :strip="strip" :title="TITLES[strip.kind]" />
    <section>
      <h3>Sends <span>index, level</span></h3>
      <SendRow v-for="send in strip.sends" :key="send.route" :send="send" :own="send.to === strip.id" />
      <p v-if="strip.sends.length === 0" class="muted">None: this operator leads nowhere.</p>
      <div class="line">
        <button type="button" class="link-btn" aria-haspopup="true" :disabled="free.length === 0" @click="menu?.toggle($event)">Add send</button>
        <span class="spacer" />
        <button type="button" class="link-btn" :aria-pressed="strip.bypassed" :title="strip.is_source ? 'For now, as if nothing moved this operator' : 'For now, everything passes unchanged; hold O for the same'" @click="document.toggle('bypassed', strip.id)">{{ strip.is_source ? (strip.bypassed ? 'Bypassed: let it be moved' : 'Bypass what moves it') : (strip.bypassed ? 'Bypassed: let it work' : 'Bypass') }}</button>
      </div>
      <Menu ref="menu" :model="free" popup />
    </section>
    <EnvelopePart :strip="strip" />
    <section>
      <h3>Response</h3>
      <div class="two"><ValueField v-for="v in response" :key="v.address.param" :value="v" /></div>
    </section>
    <section class="line">
      <button type="button" class="btn" :disabled="view.full" @click="document.edit({ do: 'duplicate_unit', unit: strip.id })">Duplicate</button>
      <button type="button" class="btn" @click="document.edit({ do: 'remove_unit', unit: strip.id })">Remove</button>
      <button type="button" class="btn" aria-haspopup="true" :disabled="view.strips.length < 2" @click="routingMenu?.toggle($event)">Place <i class="pi pi-angle-down" /></button>
      <Menu ref="routingMenu" :model="routing" popup />
      <span class="spacer" />
      <button type="button" class="link-btn" @click="document.select(null)">Voice</button>
    </section>
  </div>
</template>

<style scoped>
header { display: flex; align-items: center; gap: 8px; height: 38px; padding: 0 12px; }
.title { font-size: var(--fs-15); font-weight: 600; }
.many { color: var(--op1); font-weight: 600; }
.role { margin: -4px 12px 6px; font-size: var(--fs-11); }
.two { display: grid; grid-template-columns: 1fr 1fr; gap: 6px; }
.line { display: flex; gap: 6px; align-items: center; margin-top: 6px; }
section.line { margin-top: 0; flex-wrap: wrap; }
</style>
