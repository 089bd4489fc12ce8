<script setup lang="ts">
/** The chosen macro: each of its targets with what it is at both ends of the macro, and the way in between. */
import { computed, ref } from 'vue'

import Popover from '../OwnPopover.vue'
import WayField from './WayField.vue'
import ValueField from '../field/ValueField.vue'
import NameField from '../NameField.vue'
import { inkOf } from '../../draw/tokens'
import type { LinkView } from '../../engine/generated/LinkView'
import type { MacroView } from '../../engine/generated/MacroView'
import { useControllers } from '../../stores/controllers'
import { useDocument } from '../../stores/document'

const props = defineProps<{ knob: MacroView; which: number }>()
const emit = defineEmits<{ close: [] }>()
const document = useDocument()
const controllers = useControllers()
const links = computed(() => props.knob.links.flatMap((id) => document.view?.links.filter((link) => link.id === id) ?? []))
const path = (link: LinkView) => link.way.map((place, n) => `${n ? 'L' : 'M'}${2 + n * 3.2} ${15 - place * 12}`).join('')
const at = (link: LinkView) => {
  const place = props.knob.value.place * 10
  const n = Math.min(9, Math.floor(place))
  return { x: 2 + place * 3.2, y: 15 - (link.way[n] + (link.way[n + 1] - link.way[n]) * (place - n)) * 12 }
}
const shaping = ref<LinkView>()
const current = computed(() => links.value.find(({ id }) => id === shaping.value?.id))
const popover = ref<InstanceType<typeof Popover>>()
function shape(event: Event, link: LinkView) {
  shaping.value = link
  popover.value?.show(event)
}
const end = (high: boolean) => document.edit({ do: 'take_end', source: props.knob.source, high })
</script>

<template>
  <section class="editor" :aria-label="`What ${knob.name} moves`">
    <header>
      <h2><NameField :name="knob.name" label="Macro name" :most="document.rules?.unit_name" @rename="document.edit({ do: 'rename_source', source: knob.source, name: $event })" /></h2>
      <span class="muted wide">values at 0 % and at 100 %</span><span class="spacer" />
      <button type="button" class="btn" :class="{ on: controllers.learning === which }" :aria-pressed="controllers.learning === which" title="Turn a knob of your controller: it moves this macro from then on, in every patch" @click="controllers.learn(which)">{{ controllers.learning === which ? 'Turn a knob' : controllers.wordsOf(which) || 'Learn' }}</button>
      <span class="muted wide">Take this as the end</span>
      <span class="seg" role="group" aria-label="Take what is heard now as the end">
        <button type="button" title="What its targets are now becomes what they are at 0 %" @click="end(false)">0 %</button>
        <button type="button" title="What its targets are now becomes what they are at 100 %; at 0 % they are what they were when it was turned up" @click="end(true)">100 %</button>
      </span>
      <button v-if="document.view?.has_other" type="button" class="btn" title="At 0 % as now, at 100 % as the other state: whatever differs between A and B becomes a target" @click="document.edit({ do: 'morph', source: knob.source })">A to B</button>
      <button type="button" class="icon-btn" :aria-label="`Remove ${knob.name}`" title="Remove this macro" @click="document.edit({ do: 'remove_source', source: knob.source })"><i class="pi pi-trash" /></button>
      <button type="button" class="icon-btn" aria-label="Close" title="Close" @click="emit('close')"><i class="pi pi-times" /></button>
    </header>
    <p v-if="links.length === 0" class="muted">Not linked yet: drag <i class="pi pi-arrows-alt" /> onto a value, or press L on a value and choose it.</p>
    <div v-else class="targets">
      <div v-for="link in links" :key="link.id" class="target" role="group" :aria-label="link.target" :data-link="link.id">
        <span v-if="link.unit !== null && link.unit < 1000" class="badge" :style="{ '--c': inkOf(link.unit) }">{{ link.unit }}</span><span v-else class="badge">=</span>
        <span class="clip" :title="link.target">{{ link.short }}</span>
        <WayField :link="link" :high="false" />
        <button type="button" class="way" :aria-label="`The way of ${link.target}`" title="The way in between: where it begins, where it is over, its curve" @click="shape($event, link)"><svg width="36" height="18"><path :d="path(link)" /><circle :cx="at(link).x" :cy="at(link).y" r="3" /></svg></button>
        <WayField :link="link" high />
      </div>
    </div>
    <Popover ref="popover" :pt="{ root: { 'aria-label': 'The way in between' } }">
      <div v-if="current" class="shaping" role="group" :aria-label="`The way of ${current.target}`">
        <ValueField :value="current.begin" /><ValueField :value="current.end" /><ValueField :value="current.curve" />
        <button type="button" class="btn" title="It no longer moves this" @click="document.edit({ do: 'remove_link', link: current.id }); popover?.hide()">Leave alone</button>
        <button type="button" class="btn" title="What rose now falls" @click="document.alter({ ask: 'edit', edit: { do: 'turn_link', link: current.id }, units: [], gesture: null })">Turn round</button>
      </div>
    </Popover>
  </section>
</template>

<style scoped>
.editor { min-width: 0; border: 1px solid var(--ink); border-radius: var(--r); background: var(--select); padding: 3px 8px; display: flex; flex-direction: column; min-height: 0; }
header { display: flex; align-items: center; gap: 6px; white-space: nowrap; min-width: 0; }
h2 { font-size: var(--fs-13); min-width: 3em; overflow: hidden; display: flex; }
.targets { display: grid; grid-template-columns: repeat(auto-fill, minmax(226px, 1fr)); gap: 2px 10px; overflow-y: auto; min-height: 0; flex: 1; align-content: start; scrollbar-width: thin; }
.target { display: grid; grid-template-columns: auto minmax(36px, 1fr) 60px 36px 60px; gap: 4px; align-items: center; min-width: 0; }
.clip { overflow: hidden; text-overflow: ellipsis; white-space: nowrap; }
.way { all: unset; cursor: pointer; height: 24px; display: grid; place-items: center; }
.way:focus-visible { outline: 2px solid var(--swept); }
path { fill: none; stroke: var(--ink); stroke-width: 1.3; }
circle { fill: var(--sheet); stroke: var(--ink); stroke-width: 1.3; }
p { margin: 6px 0; }
.shaping { display: grid; grid-template-columns: repeat(3, 84px) auto auto; gap: 6px; align-items: center; }
@media (max-width: 1500px) { .wide { display: none; } }
</style>
