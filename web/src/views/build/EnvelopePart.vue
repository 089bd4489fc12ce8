<script setup lang="ts">
/** The envelope of the selected operators in values: points, loop, tempo, ready shapes, copying and linking. */
import Menu from '../../components/popupMenu'
import { computed, ref } from 'vue'

import Popover from '../../components/OwnPopover.vue'
import ValueField from '../../components/field/ValueField.vue'
import ToggleSwitch from '../../components/ToggleSwitch.vue'
import type { ReadyView } from '../../engine/generated/ReadyView'
import type { StripView } from '../../engine/generated/StripView'
import type { ValueView } from '../../engine/generated/ValueView'
import { useDocument } from '../../stores/document'

const props = defineProps<{ strip: Pick<StripView, 'id' | 'envelope'>; values: ValueView[]; units?: number[] }>()
const document = useDocument()
/** Whose envelopes are edited as one: the selected strips', if nothing else is said. */
const whose = computed(() => props.units ?? document.units)
const envelope = computed(() => props.strip.envelope)
const plainTimes = computed(() => envelope.value.points.flatMap((point) => point.values.filter((v) => v.address.param !== 'point.curve')))
const plainCurves = computed(() => envelope.value.points.flatMap((point) => point.values.filter((v) => v.address.param === 'point.curve')))

const shapes = ref<InstanceType<typeof Popover>>()
const ready = ref<ReadyView[]>([])
function openShapes(event: Event) {
  const answer = document.ask({ ask: 'ready_envelopes' })
  if (answer.is === 'envelopes') ready.value = answer.list
  shapes.value?.toggle(event)
}
const line = (picture: number[]) => `M${picture.map((level, i) => `${((i / (picture.length - 1)) * 60).toFixed(1)} ${(21 - 19 * level).toFixed(1)}`).join('L')}`

const pointMenu = ref<InstanceType<typeof Menu>>()
const chosen = ref(0)
const acts = computed(() => {
  const at = chosen.value
  const point = envelope.value.points[at]
  const last = at === envelope.value.points.length - 1
  if (!point) return []
  return [
    { label: 'Hold the note here', disabled: last || point.held, command: () => document.edit({ do: 'hold_point', units: whose.value, at }) },
    { label: point.looped ? 'Go round no more' : 'Go round from here while held', disabled: point.released, command: () => document.edit({ do: 'loop_from', units: whose.value, from: point.looped ? null : at }) },
    { label: 'Take this point out', disabled: last, command: () => document.edit({ do: 'remove_point', unit: props.strip.id, at }) },
  ]
})
function openPoint(event: Event, at: number) {
  chosen.value = at
  pointMenu.value?.toggle(event)
}
const linkedNames = computed(() => envelope.value.linked.join(', '))
const link = (equal: boolean) => document.edit({ do: 'link_envelopes', units: whose.value, equal })
</script>

<template>
  <section data-testid="envelope">
    <h3>Envelope <span>double click on the strip: a point</span></h3>
    <template v-if="envelope.plain">
      <div class="four"><ValueField v-for="v in plainTimes" :key="v.label" :value="v" :label="v.label" /></div>
      <div class="four gap">
        <ValueField v-for="v in plainCurves.slice(0, 2)" :key="v.label" :value="v" :label="v.label" />
        <ValueField v-for="v in values" :key="v.address.param" :value="v" />
        <ValueField v-for="v in plainCurves.slice(2)" :key="v.label" :value="v" :label="v.label" />
      </div>
    </template>
    <template v-else>
      <div v-for="(point, at) in envelope.points" :key="at" class="point" :class="{ released: point.released }">
        <button type="button" class="mark" aria-haspopup="true" :aria-label="`Point ${at + 1}${point.held ? ', held' : ''}${point.looped ? ', loop' : ''}`" :title="point.held ? 'Held until the release' : 'Hold, loop, take out'" @click="openPoint($event, at)">
          {{ at + 1 }}<i v-if="point.held" class="pi pi-pause" /><i v-else-if="point.looped" class="pi pi-replay" />
        </button>
        <ValueField v-for="v in point.values" :key="v.label" :value="v" :label="v.label" />
      </div>
      <div class="four gap"><ValueField v-for="v in values" :key="v.address.param" :value="v" /></div>
    </template>
    <div class="line">
      <button type="button" class="btn" aria-haspopup="true" @click="openShapes">Shapes <i class="pi pi-angle-down" /></button>
      <button type="button" class="btn" title="Remember this envelope" @click="document.ask({ ask: 'copy_envelope', unit: strip.id })">Copy</button>
      <button type="button" class="btn" title="Give the selected strips the envelope remembered" @click="document.alter({ ask: 'paste_envelope', units: whose })">Paste</button>
      <button type="button" class="btn" title="A point on the curve in the middle of the held note; its fields move it" @click="document.edit(envelope.add)">Point</button>
      <span class="spacer" />
      <ToggleSwitch :on="envelope.in_beats" label="In beats" @switch="document.edit({ do: 'tie_to_tempo', units: whose, on: $event })" />
    </div>
    <div v-if="!units && document.others.length" class="line">
      <button type="button" class="btn" title="Edited as one from now on; each keeps its difference" @click="link(false)">Link {{ document.units.length }}, keep differences</button>
      <button type="button" class="btn" title="Made like the first one now, and always" @click="link(true)">Link alike</button>
    </div>
    <div v-if="envelope.linked.length" class="line linked" data-testid="linked">
      <i class="pi pi-link" /> with {{ linkedNames }}, {{ envelope.equal ? 'alike' : 'differences kept' }}<span class="spacer" />
      <button type="button" class="link-btn" @click="document.edit({ do: 'unlink_envelopes', units: whose })">Unlink</button>
    </div>
    <Menu ref="pointMenu" :model="acts" popup />
    <Popover ref="shapes" chooses label="Envelopes to choose from">
      <div class="shapes" role="listbox" aria-label="Ready envelopes">
        <button v-for="(shape, at) in ready" :key="shape.name" type="button" role="option" :aria-selected="false" @click="document.alter({ ask: 'take_ready', units: whose, at })">
          <svg width="60" height="22" aria-hidden="true"><path :d="line(shape.picture)" fill="none" stroke="currentColor" stroke-width="1.4" /></svg>{{ shape.name }}
        </button>
      </div>
    </Popover>
  </section>
</template>

<style scoped>
.four { display: grid; grid-template-columns: repeat(4, 1fr); gap: 6px; }
.gap { margin-top: 6px; }
.line { display: flex; flex-wrap: wrap; gap: 6px; align-items: center; margin-top: 6px; }
.point { display: grid; grid-template-columns: 32px repeat(3, 1fr); gap: 5px; margin-bottom: 4px; }
.mark { border: 1px solid var(--hair-2); border-radius: var(--r); background: var(--sheet); cursor: pointer; font-weight: 600; display: grid; place-items: center; }
.released .mark { border-style: dashed; }
.mark .pi { font-size: 9px; }
.linked { color: var(--ink-2); }
.shapes { display: grid; grid-template-columns: repeat(3, 1fr); gap: 2px 8px; }
.shapes button { display: flex; align-items: center; gap: 8px; min-height: 26px; padding: 0 6px; border: 0; border-radius: var(--r); background: none; cursor: pointer; white-space: nowrap; }
.shapes button:hover { background: var(--field-hover); }
</style>
