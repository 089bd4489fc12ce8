<script setup lang="ts">
/** What moves a value, with amounts to type there and then, and what could: opened on any field. */
import { computed, nextTick, ref, watch } from 'vue'

import Popover from '../OwnPopover.vue'
import LinkRow from '../moving/LinkRow.vue'
import type { SourceName } from '../../engine/generated/SourceName'
import { useControllers } from '../../stores/controllers'
import { useDocument } from '../../stores/document'
import { useMoving } from '../../stores/moving'

const document = useDocument()
const moving = useMoving()
const controllers = useControllers()
const popover = ref<InstanceType<typeof Popover>>()
const box = ref<HTMLElement>()
const links = computed(() => {
  const asked = moving.asked?.address
  return document.view?.links.filter(({ to }) => to.param === asked?.param && to.id === asked.id && to.point === asked.point) ?? []
})
/** How many values are moved at once. */
const count = computed(() => (moving.asked && document.change ? document.countOf(moving.asked.address) : 1))
const free = computed(() => document.view?.sources.filter(({ id }) => !links.value.some((link) => link.from === id)) ?? [])

watch(() => moving.asked, async (asked) => {
  if (!asked) return popover.value?.hide()
  popover.value?.show(new Event('click'), asked.anchor)
  await nextTick()
  box.value?.querySelector<HTMLElement>('button, [tabindex="0"]')?.focus()
})
function closed() {
  const anchor = moving.asked?.anchor
  moving.asked = undefined
  // the hand is back where it was
  if (anchor?.isConnected && !window.document.activeElement?.closest('.inspector')) anchor.focus()
}
/** The amount of the link that was just made has the focus: it can be typed at once. */
async function onAmount(from?: number) {
  const link = moving.asked && document.linkTo(moving.asked.address, from)
  await nextTick()
  box.value?.querySelector<HTMLElement>(`[data-link='${link?.id}'] [role=spinbutton]`)?.focus()
}
function link(from: number) {
  if (moving.asked) document.edit({ do: 'add_links', from, to: [moving.asked.address] })
  void onAmount(from)
}
function make(kind: SourceName) {
  if (moving.asked) document.edit({ do: 'add_source', kind, to: [moving.asked.address] })
  void onAmount()
}
function settle(take_back: boolean) {
  if (moving.asked) document.edit({ do: 'settle', address: moving.asked.address, take_back })
  popover.value?.hide()
}
const learn = () => moving.asked && controllers.learn(moving.asked.address)
</script>

<template>
  <Popover ref="popover" :pt="{ root: { 'aria-label': `What moves ${moving.asked?.label ?? 'it'}` } }" @hide="closed">
    <div v-if="moving.asked" ref="box" class="menu" data-testid="field-menu" @keydown.escape.stop="popover?.hide()">
      <h3>{{ moving.asked.label }} <span v-if="count > 1" class="muted">of {{ count }} strips</span> <span v-if="moving.asked.movable === 'all'" class="muted">all notes alike</span><span v-else-if="moving.asked.movable === 'onset'" class="muted">each note, as it begins</span></h3>
      <div v-if="moving.asked.base" class="base" role="group" aria-label="What is different">Base <b>{{ moving.asked.base }}</b>
        <button type="button" class="btn" title="As in the base again" @click="settle(true)">Take back</button>
        <button type="button" class="btn" title="The base becomes as it is here" @click="settle(false)">Make it the base</button>
      </div>
      <p v-if="moving.asked.movable === null" class="muted">This stands still while a note sounds: nothing moves it.</p>
      <template v-else>
        <LinkRow v-for="each in links" :key="each.id" :link="each" :sources="document.view?.sources ?? []" from />
        <p class="lead">Move this by</p>
        <div class="choices">
          <button v-for="source in free" :key="source.id" type="button" class="btn" @click="link(source.id)">{{ source.name }}</button>
          <button type="button" class="btn new" :class="{ on: controllers.learning !== undefined }" title="Turn a knob of your controller: it moves this from then on" @click="learn">{{ controllers.learning === undefined ? 'A controller…' : 'Turn a knob' }}</button>
          <button v-for="{ kind, label, help } in document.sourceKinds" :key="kind" type="button" class="btn new" :title="help" @click="make(kind)">+ {{ label }}</button>
        </div>
      </template>
    </div>
  </Popover>
</template>

<style scoped>
.menu { width: 330px; max-height: 60vh; overflow-y: auto; }
h3 { margin: 0 0 4px; font-size: var(--fs-13); display: flex; gap: 8px; }
h3 span { font-weight: 400; font-size: var(--fs-11); }
.lead { margin: 4px 0; color: var(--ink-2); }
.choices { display: flex; flex-wrap: wrap; gap: 4px; }
.new { border-style: dashed; }
.base { display: flex; gap: 6px; align-items: center; padding: 4px 0; border-bottom: 1px solid var(--hair); }
.base b { margin-right: auto; }
</style>
