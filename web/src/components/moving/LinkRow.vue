<script setup lang="ts">
/** One link: on, what it moves, how far, which way, from where to where, and what brings it in. */
import { computed, ref } from 'vue'

import EndField from './EndField.vue'
import SourceGlyph from './SourceGlyph.vue'
import ValueField from '../field/ValueField.vue'
import { inkOf } from '../../draw/tokens'
import type { Edit } from '../../engine/generated/Edit'
import type { LinkView } from '../../engine/generated/LinkView'
import type { SourceView } from '../../engine/generated/SourceView'
import { useDocument } from '../../stores/document'

const props = defineProps<{ link: LinkView; sources: SourceView[]; from?: boolean }>()
const document = useDocument()
const WAYS = [['down', '↓', 'Down: from the value downward'], ['both', '↕', 'Bipolar: both ways round the value'], ['up', '↑', 'Up: from the value upward']] as const
/** Opened on a field of several strips it is one of the same links of all; in Move it is this one alone. */
const act = (edit: Edit) => (props.from ? document.edit(edit) : document.editOne(edit))
const more = ref(false)
/** Its source: which of its ends is which value. */
const own = computed(() => props.sources.find(({ id }) => id === props.link.from))
const others = computed(() => props.sources.filter(({ id }) => id !== props.link.from))
const scaled = (event: Event) => {
  const id = Number((event.target as HTMLSelectElement).value)
  act({ do: 'scale_link', link: props.link.id, by: id || null })
}
/** Links whose settings can be taken. */
const like = computed(() => document.view?.links.filter(({ id }) => id !== props.link.id) ?? [])
const alike = (event: Event) => act({ do: 'like_link', link: props.link.id, like: Number((event.target as HTMLSelectElement).value) })
const resend = (event: Event) => act({ do: 'resend_link', link: props.link.id, from: Number((event.target as HTMLSelectElement).value) })
</script>

<template>
  <div class="link" :class="{ off: !link.on || link.muted }" role="group" :aria-label="from ? `${link.from_name} moves ${link.target}` : `Moves ${link.target}`" :data-link="link.id">
    <div class="first">
      <button type="button" class="toggle" role="switch" :aria-checked="link.on" :aria-label="`Link to ${link.target} on`" @click="act({ do: 'switch_link', link: link.id, on: !link.on })"><i /></button>
      <span v-if="!from && link.unit !== null && link.unit < 1000" class="badge" :style="{ '--c': inkOf(link.unit) }">{{ link.unit }}</span>
      <b class="clip" :title="link.target">{{ from ? link.from_name : link.target }}</b>
      <span class="spacer" />
      <button type="button" class="tag" :class="{ on: link.muted }" :aria-pressed="link.muted" :aria-label="`Mute the link to ${link.target}`" title="Mute for now" @click="document.toggle('muted_links', link.id)">M</button>
      <button type="button" class="tag" :class="{ on: link.soloed }" :aria-pressed="link.soloed" :aria-label="`Solo the link to ${link.target}`" title="Only this link for now" @click="document.toggle('soloed_links', link.id)">S</button>
      <button type="button" class="icon-btn" :aria-label="`Remove the link to ${link.target}`" title="Remove this link" @click="act({ do: 'remove_link', link: link.id })"><i class="pi pi-times" /></button>
    </div>
    <div class="second">
      <ValueField :value="link.amount" :alone="!from" />
      <span class="seg ways" role="group" :aria-label="`Direction to ${link.target}`">
        <button v-for="[way, sign, help] in WAYS" :key="way" type="button" :aria-pressed="link.direction === way" :aria-label="help" :title="help" @click="act({ do: 'direct_link', link: link.id, direction: way })">{{ way === 'both' && link.turned ? '⇅' : sign }}</button>
        <button type="button" :aria-pressed="link.turned" :aria-label="`Turn round: what rises falls, for ${link.target}`" title="Turn round: what rises falls" @click="act({ do: 'turn_link', link: link.id })"><i class="pi pi-sort-alt" /></button>
      </span>
      <button type="button" class="link-btn" :aria-expanded="more" @click="more = !more">{{ more ? 'Less' : 'More' }}</button>
    </div>
    <div class="third">
      <EndField :link="link" :high="false" /><EndField :link="link" high />
      <label class="brought">Depth controlled by
        <select :value="link.scaled_by ?? 0" :aria-label="`What controls the depth of the link to ${link.target}`" @change="scaled">
          <option :value="0">nothing</option>
          <option v-for="source in others" :key="source.id" :value="source.id">{{ source.name }}</option>
        </select>
      </label>
    </div>
    <p v-if="own" class="loud muted" data-testid="loud"><SourceGlyph :source="own" /> <span>at its top <b>{{ link.at_high }}</b>, at its bottom <b>{{ link.at_low }}</b></span></p>
    <div v-if="more" class="fourth">
      <ValueField :value="link.curve" :alone="!from" /><ValueField :value="link.begin" :alone="!from" /><ValueField :value="link.end" :alone="!from" />
      <label v-if="like.length">As
        <select :value="0" :aria-label="`Take the settings of another link for ${link.target}`" @change="alike">
          <option :value="0">another link…</option>
          <option v-for="other in like" :key="other.id" :value="other.id">{{ other.from_name }} to {{ other.target }}</option>
        </select>
      </label>
      <label>From
        <select :value="link.from" :aria-label="`Source of the link to ${link.target}`" @change="resend">
          <option v-for="source in sources" :key="source.id" :value="source.id">{{ source.name }}</option>
        </select>
      </label>
    </div>
    <p v-if="link.note" class="muted told" :class="{ stuck: link.stuck }">{{ link.note }} <button v-if="link.stuck" type="button" class="link-btn" @click="act({ do: 'turn_link', link: link.id })">Turn round</button></p>
  </div>
</template>

<style scoped>
.link { padding: 5px 0 7px; border-bottom: 1px solid var(--hair); margin-bottom: 5px; }
.first, .fourth { display: flex; align-items: center; gap: 6px; min-width: 0; }
.clip { overflow: hidden; text-overflow: ellipsis; white-space: nowrap; min-width: 0; }
.second { display: grid; grid-template-columns: minmax(0, 1fr) auto auto; gap: 8px; align-items: center; margin: 3px 0 5px; }
.third { display: grid; grid-template-columns: minmax(0, 1fr) minmax(0, 1fr) minmax(0, 1.35fr); gap: 5px; }
.brought { display: block; overflow: hidden; text-overflow: ellipsis; background: var(--field); border-radius: var(--r); padding: 3px 6px; font-size: var(--fs-11); line-height: 13px; color: var(--ink-3); }
.brought select { display: block; width: 100%; max-width: none; height: 20px; border: 0; background: none; padding: 0; font-size: var(--fs-12); font-weight: 600; color: var(--ink); }
.loud { display: flex; align-items: center; gap: 6px; margin: 3px 0 0; font-size: var(--fs-11); }
.loud b { color: var(--ink-2); }
.ways button { padding: 0 6px; min-width: 24px; }
.tag { width: 24px; height: 24px; border: 1px solid var(--hair-2); border-radius: var(--r); background: none; cursor: pointer; color: var(--ink-2); font-size: var(--fs-11); flex: none; }
.tag.on { background: var(--ink); color: var(--on-ink); }
.off .clip { color: var(--ink-3); text-decoration: line-through; }
label { display: flex; align-items: center; gap: 5px; color: var(--ink-2); white-space: nowrap; min-width: 0; }
select { height: var(--hit); max-width: 9.5em; border: 1px solid var(--hair-2); border-radius: var(--r); background: var(--sheet); }
.fourth { flex-wrap: wrap; margin-top: 4px; }
.stuck { color: var(--warn); }
.told { margin: 3px 0 0; font-size: var(--fs-11); }
</style>
