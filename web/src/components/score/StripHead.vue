<script setup lang="ts">
/** The head of a strip: number, name, tuning, on, mute, solo; drag the grip to another strip to route. */
import { computed } from 'vue'
import { useRouter } from 'vue-router'

import NameField from '../NameField.vue'
import CycleLine from '../wave/CycleLine.vue'
import { useWaves } from '../../composables/heard/useWaves'
import { inkOf } from '../../draw/tokens'
import type { StripView } from '../../engine/generated/StripView'
import { useDocument } from '../../stores/document'
import { useMoving } from '../../stores/moving'

const props = defineProps<{ strip: StripView; selected: boolean }>()
defineEmits<{ route: [event: PointerEvent] }>()
const document = useDocument()
const waves = useWaves()
const moving = useMoving()
const router = useRouter()
/** What moved one of its routes until that went. */
const loose = computed(() => document.view?.loose.find(({ unit }) => unit === props.strip.id))
function linkAnew(source: number) {
  document.source = moving.linking = source
  void router.push({ name: 'move', params: router.currentRoute.value.params })
}
const OWN_BARS = [0, 0.9, 0.3, 0.6, -0.2, 0.4, -0.6, -0.3, -0.9, 0]
const glyph = computed(() => (props.strip.kind !== 'operator' ? undefined : props.strip.has_bars ? OWN_BARS : waves.value.find((wave) => wave.label === props.strip.wave_label)?.cycle))
</script>

<template>
  <div class="head" :style="{ '--c': inkOf(strip.id) }" :class="{ off: !strip.on, silent: strip.unheard }" @click="document.selectBy($event, strip.id)">
    <button
      type="button" class="grip" tabindex="-1" :aria-label="`${strip.id} ${strip.name}: drag to another strip to route`" title="Drag to a strip or to the output to route"
      @pointerdown.stop.prevent="$emit('route', $event)" @click.stop="document.selectBy($event, strip.id)"
    >
      <span class="badge">{{ strip.id }}</span>
      <span v-if="glyph" class="glyph" :title="strip.wave_label"><CycleLine :cycle="glyph" :width="24" :height="12" :stroke="1.3" /></span>
    </button>
    <div class="words">
      <div class="called" :title="strip.name"><NameField :name="strip.name" twice :label="`Name of strip ${strip.id}`" @rename="document.edit({ do: 'rename_unit', unit: strip.id, name: $event })" /></div>
      <div class="second">
        <b>{{ strip.ratio }}</b><span class="hz">{{ strip.hz }}</span><span class="muted key" data-testid="note">{{ strip.note }}</span><span class="fine" :title="strip.fine">{{ strip.fine }}</span><button
          v-if="strip.pitch_shift && !strip.unheard" type="button" class="warn-tag" tabindex="-1" data-testid="pitch-shift" :title="`${strip.pitch_shift.words}. Click: bipolar, so that the pitch stays in tune`"
          @click.stop="document.edit({ do: 'direct_link', link: strip.pitch_shift!.link, direction: 'both' })"
        >{{ strip.pitch_shift.short }}</button><button
          v-if="loose" type="button" class="warn-tag" tabindex="-1" :title="`${loose.words}. Click: link it to something else`" @click.stop="linkAnew(loose.source)"
        >link lost</button><b v-if="strip.differs" class="differs" :title="`${strip.differs} different from the base in this articulation`">≠ {{ strip.differs }}</b>
      </div>
      <div v-if="selected" class="third" :title="strip.ways.join('; ')">{{ [strip.role, ...strip.ways].join(' · ') }}</div>
    </div>
    <button
      type="button" class="tag dot" tabindex="-1" :aria-pressed="strip.on" :aria-label="`${strip.name} on`" :title="strip.on ? 'Switch off' : 'Switch on'"
      @click.stop="document.edit({ do: 'switch_unit', unit: strip.id, on: !strip.on })"
    ><i /></button>
    <button type="button" class="tag" tabindex="-1" :class="{ on: strip.muted }" :aria-pressed="strip.muted" :aria-label="`Mute ${strip.name}`" title="Mute for now: hear it without" @click.stop="document.toggle('muted', strip.id)"><span>M</span></button>
    <button type="button" class="tag" tabindex="-1" :class="{ on: strip.soloed }" :aria-pressed="strip.soloed" :aria-label="`Solo ${strip.name}`" title="Solo for now: hear only this" @click.stop="document.toggle('soloed', strip.id)"><span>S</span></button>
  </div>
</template>

<style scoped>
.head { height: 100%; padding: 4px 6px 0 4px; cursor: pointer; overflow: hidden; display: flex; align-items: flex-start; }
.grip { width: 28px; height: 40px; align-content: start; row-gap: 4px; padding-top: 2px; border: 0; background: none; cursor: grab; display: grid; place-items: center; touch-action: none; flex: none; }
.grip:hover .badge { outline: 2px solid var(--ink); }
.words { flex: 1; min-width: 0; padding: 2px 0 0 6px; }
.called { font-weight: 600; font-size: 14px; line-height: 20px; height: 20px; min-width: 0; display: flex; }
.glyph { color: var(--c); height: 12px; }
.tag { width: 24px; height: 24px; margin-top: 6px; padding: 0; border: 0; background: none; display: grid; place-items: center; cursor: pointer; color: var(--ink-2); flex: none; }
.tag span { width: 18px; height: 18px; font-size: var(--fs-11); line-height: 16px; border: 1px solid var(--hair-2); border-radius: var(--r); }
.tag.on span { background: var(--ink); color: var(--on-ink); border-color: var(--ink); }
.dot i { width: 9px; height: 9px; border-radius: 50%; background: var(--c); border: 1.5px solid var(--c); }
.off .dot i { background: none; }
.second { display: flex; gap: 5px; color: var(--ink-2); white-space: nowrap; overflow: hidden; line-height: 16px; height: 17px; }
.fine { font-size: var(--fs-11); flex: 0 1 auto; overflow: hidden; text-overflow: ellipsis; min-width: 0; }
.key, .hz { font-size: var(--fs-11); }
.second b { color: var(--ink); }
.third { padding-top: 3px; font-size: var(--fs-11); color: var(--ink-3); white-space: nowrap; overflow: hidden; text-overflow: ellipsis; }
.off .called, .off .second { color: var(--ink-3); }
.off .second b { color: var(--ink-3); text-decoration: line-through; }
</style>
