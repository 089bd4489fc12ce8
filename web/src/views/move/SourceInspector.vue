<script setup lang="ts">
/** The selected source: when it begins, its shape, and its links. */
import { computed } from 'vue'

import LinkPicker from './LinkPicker.vue'
import LinkRow from '../../components/moving/LinkRow.vue'
import ShapeEditor from './ShapeEditor.vue'
import SourceGlyph from '../../components/moving/SourceGlyph.vue'
import StepsEditor from './StepsEditor.vue'
import NameField from '../../components/NameField.vue'
import ValueField from '../../components/field/ValueField.vue'
import ToggleSwitch from '../../components/ToggleSwitch.vue'
import { useClip } from '../../composables/keys/useClip'
import { inkOf } from '../../draw/tokens'
import type { DocumentView } from '../../engine/generated/DocumentView'
import type { SourceView } from '../../engine/generated/SourceView'
import { useDocument } from '../../stores/document'
import { useMoving } from '../../stores/moving'
import EnvelopePart from '../build/EnvelopePart.vue'
import SheetPart from '../build/SheetPart.vue'
import SheetView from '../build/SheetView.vue'

const props = defineProps<{ source: SourceView; view: DocumentView }>()
const document = useDocument()
const links = computed(() => document.linksOf(props.source.id))
const seed = computed(() => props.source.values.find(({ address }) => address.param === 'random.seed'))
const moving = useMoving()
const picking = computed(() => moving.linking === props.source.id)
/** What it moved until its route went. */
const loose = computed(() => props.view.loose.filter(({ source }) => source === props.source.id))
function picked() {
  moving.linking = undefined
  if (loose.value.length) document.ask({ ask: 'forget_loose', source: props.source.id })
}
const { copied, copy } = useClip('source')
function copySource() {
  const answer = document.ask({ ask: 'copy_source', source: props.source.id })
  if (answer.is === 'text') copy(answer.text)
}
function remove() {
  const all = props.view.sources
  const at = all.findIndex(({ id }) => id === props.source.id)
  document.edit({ do: 'remove_source', source: props.source.id })
  document.source = all[at + 1]?.id ?? all[at - 1]?.id ?? null
}
</script>

<template>
  <div>
    <header>
      <SourceGlyph :source="source" />
      <h2 class="title"><NameField :name="source.name" label="Name of the source" :most="document.rules?.unit_name" @rename="document.edit({ do: 'rename_source', source: source.id, name: $event })" /></h2>
      <span class="spacer" />
      <ToggleSwitch :on="source.on" label="On" @switch="document.edit({ do: 'switch_source', source: source.id, on: $event })" />
    </header>
    <p class="role muted">{{ source.words }}</p>
    <SheetView :sheet="source.sheet.filter(({ id }) => id !== 'onset')" :values="source.values" :choices="source.choices" :units="[source.id]">
      <template #time="part"><SheetPart v-bind="part" :note="source.rate" /></template>
      <template #shape><ShapeEditor v-if="source.shape" :source="source.id" :shape="source.shape" /></template>
      <template #steps><StepsEditor v-if="source.steps" :source="source.id" :steps="source.steps" /></template>
      <template #envelope="{ values }"><EnvelopePart v-if="source.envelope" :strip="{ id: source.id, envelope: source.envelope }" :values="values" :units="[source.id]" /></template>
      <template #random="part">
        <SheetPart v-bind="part">
          <template #after><button v-if="seed" type="button" class="btn again" title="The next seed: other values (K, while listening)" @click="document.alter({ ask: 'nudge', address: seed.address, units: [], steps: 1, fine: false, gesture: null })">New seed</button></template>
        </SheetPart>
      </template>
      <template #played="part">
        <SheetPart v-bind="part">
          <template #after>
            <p v-if="source.auditioned" class="played muted">In the auditioned note <ValueField :value="source.auditioned" alone /></p>
          </template>
        </SheetPart>
      </template>
      <template #follower>
        <section>
          <h3>Follows <span>the level of a strip</span></h3>
          <div class="strips" role="group" aria-label="Follows">
            <button v-for="strip in view.strips" :key="strip.id" type="button" class="btn" :aria-pressed="source.follows === strip.id" :class="{ on: source.follows === strip.id }" @click="document.edit({ do: 'follow', source: source.id, unit: strip.id })">
              <span class="badge" :style="{ '--c': inkOf(strip.id) }">{{ strip.id }}</span><span class="clip">{{ strip.name }}</span>
            </button>
          </div>
        </section>
      </template>
    </SheetView>
    <section data-testid="links">
      <h3>Links <span>{{ links.length ? `${links.filter((link) => link.on).length} on` : 'not linked yet' }}</span></h3>
      <LinkRow v-for="link in links" :key="link.id" :link="link" :sources="view.sources" />
      <p v-for="link in loose" :key="link.words" class="loose" role="status">{{ link.words }}. Link it to something else.</p>
      <button v-if="!picking" type="button" class="btn" @click="moving.linking = source.id">Add link</button>
      <LinkPicker v-else :source="source.id" @done="picked" />
    </section>
    <SheetView :sheet="source.sheet.filter(({ id }) => id === 'onset')" :values="source.values" :choices="source.choices" :units="[source.id]" />
    <section class="line">
      <button type="button" class="btn" title="With its links (Ctrl+D)" @click="document.edit({ do: 'duplicate_source', source: source.id })">Duplicate</button>
      <button type="button" class="btn" title="Remember kind, clock and shape" @click="copySource">Copy</button>
      <button type="button" class="btn" :disabled="!copied" title="Give this source the kind, clock and shape that was copied; its links stay" @click="document.alter({ ask: 'paste_source', source: source.id, text: copied })">Paste</button>
      <button type="button" class="btn" title="With its links (Delete)" @click="remove">Remove</button>
    </section>
  </div>
</template>

<style scoped>
header { display: flex; align-items: center; gap: 8px; height: 38px; padding: 0 12px; }
.title { font-size: var(--fs-15); font-weight: 600; min-width: 0; display: flex; }
.role { margin: -4px 12px 6px; font-size: var(--fs-11); }
.played { display: flex; align-items: center; justify-content: space-between; gap: 6px; margin: 6px 0 0; }
.again { margin-top: 6px; }
.line { display: flex; gap: 6px; flex-wrap: wrap; }
.strips { display: flex; flex-wrap: wrap; gap: 4px; }
.loose { color: var(--warn); margin: 4px 0; }
.clip { max-width: 9em; overflow: hidden; text-overflow: ellipsis; }
</style>
