<script setup lang="ts">
/** The chains as rails with rows: what leads into them, their effects in the order the sound goes through them, and the clean way. */
import { ref } from 'vue'

import AddEffect from './AddEffect.vue'
import EffectRow from './EffectRow.vue'
import WaysIn from './WaysIn.vue'
import ValueField from '../../components/field/ValueField.vue'
import NameField from '../../components/NameField.vue'
import { useClip } from '../../composables/keys/useClip'
import { useGesture } from '../../composables/hand/useGesture'
import type { ChainId } from '../../engine/generated/ChainId'
import { useDocument } from '../../stores/document'
import { useFinish } from '../../stores/finish'

const document = useDocument()
const finish = useFinish()
const list = ref<HTMLElement>()
const sign = { first: 'A', second: 'B', common: 'AB' } as const

// a row is put elsewhere by its handle: the line shows where it would go
const drop = ref<{ chain: ChainId; at: number; y: number }>()
/** Where a row would go from a height on the page. */
function placeAt(pageY: number, id: number) {
  const box = list.value?.getBoundingClientRect()
  if (!box || !list.value) return undefined
  const rows = [...list.value.querySelectorAll<HTMLElement>('[data-place]')]
  const spots = rows.map((row) => {
    const own = row.getBoundingClientRect()
    return { chain: row.dataset.chain as ChainId, at: Number(row.dataset.place), y: row.dataset.end === undefined ? own.top : own.top + 2 }
  })
  const near = spots.reduce((a, b) => (Math.abs(b.y - pageY) < Math.abs(a.y - pageY) ? b : a), spots[0])
  if (!near) return undefined
  // places are counted without the row that moves
  const own = finish.chains.find((chain) => chain.id === near.chain)?.effects.findIndex((effect) => effect.id === id) ?? -1
  return { ...near, at: own >= 0 && own < near.at ? near.at - 1 : near.at, y: near.y - box.top + list.value.scrollTop }
}
const { take, dragged } = useGesture<number>({
  edits: false,
  move: ({ what }, event) => (drop.value = placeAt(event.clientY, what)),
  end({ what }, _event, kept) {
    const to = drop.value
    drop.value = undefined
    if (kept && to) finish.move(what, to.chain, to.at)
  },
})
const { copied } = useClip('effects')
const paste = (chain: ChainId) => document.alter({ ask: 'paste_effects', chain, at: null, text: copied.value })
</script>

<template>
  <div class="chains">
    <div class="head"><b>Chains</b><span class="spacer" /><span class="muted levels">before, after</span><span class="muted cost">cost</span></div>
    <div ref="list" class="list" role="group" aria-label="Chains of effects" tabindex="-1">
      <template v-for="(chain, at) in finish.chains" :key="chain.id">
        <section class="chain" :class="[chain.id, { 'switched-off': !chain.on || chain.muted }]" role="group" :aria-label="chain.name" :data-testid="`chain-${chain.id}`">
          <i v-if="chain.id === 'second'" class="rail past" aria-hidden="true" />
          <div class="line" :class="{ picked: finish.picked === chain.id }" @click.self="finish.pick(chain.id)">
            <i class="rail knee" aria-hidden="true" />
            <button type="button" class="sign" :aria-pressed="finish.picked === chain.id" :aria-label="`${sign[chain.id]}: select ${chain.name}`" :title="`Selects ${chain.name} (${at + 1}): what is pasted goes here, and O is heard without its effects`" @click="finish.pick(finish.picked === chain.id ? null : chain.id)">{{ sign[chain.id] }}</button>
            <span class="called"><NameField :name="chain.name" :label="`Name of ${chain.name}`" @rename="document.edit({ do: 'rename_chain', chain: chain.id, name: $event })" /></span>
            <WaysIn :from="chain.from" :bus="chain.bus ?? undefined" none="no input" />
            <button type="button" class="ms" :aria-pressed="chain.muted" :aria-label="`Mute ${chain.name}`" :title="`Mute ${chain.name} for now`" @click="document.toggle('muted_chains', chain.id)">M</button>
            <button v-if="chain.id !== 'common'" type="button" class="ms" :aria-pressed="chain.soloed" :aria-label="`Solo ${chain.name}`" :title="`Hear only ${chain.name} for now`" @click="document.toggle('soloed_chains', chain.id)">S</button>
            <button v-if="copied" type="button" class="link-btn" :aria-label="`Paste the copied effect into ${chain.name}`" title="Puts the copied effect at the end" @click="paste(chain.id)">Paste</button>
            <AddEffect :chain="chain" />
          </div>
          <div v-if="chain.effects.length" role="list" :aria-label="`Effects of ${chain.name}`">
            <template v-for="(effect, place) in chain.effects" :key="effect.id">
              <div class="gap" :data-chain="chain.id" :data-place="place" />
              <EffectRow :effect="effect" :level="finish.levels.get(effect.id)" :dragged="dragged?.what === effect.id" @take="take($event, effect.id)" />
            </template>
          </div>
          <div class="gap end" :data-chain="chain.id" :data-place="chain.effects.length" data-end />
          <p v-if="!chain.effects.length && chain.from.length" class="none muted"><i class="rail" aria-hidden="true" />No effects</p>
          <div class="outs">
            <i class="rail" aria-hidden="true" />
            <ValueField v-for="value in chain.values" :key="value.address.param" :value="value" inline />
          </div>
        </section>
      </template>
      <div class="clean line" data-testid="clean">
        <i class="rail knee" aria-hidden="true" /><b class="name">Clean</b>
        <WaysIn :from="document.view?.finish.clean ?? []" bus="clean" none="nothing goes past the effects" past />
      </div>
      <i v-if="drop" class="drop" :style="{ top: `${drop.y}px` }" />
    </div>
  </div>
</template>

<style scoped>
.chains { display: flex; flex-direction: column; min-height: 0; background: var(--paper); border-right: 1px solid var(--rule); }
.head { display: flex; align-items: center; gap: 12px; height: var(--ruler); flex: none; padding: 0 10px; border-bottom: 1px solid var(--hair-2); font-size: var(--fs-11); }
.head b { font-size: var(--fs-12); }
.list { position: relative; flex: 1; min-height: 0; overflow-y: auto; overflow-x: hidden; }
.line { position: relative; display: flex; align-items: center; gap: 6px; height: 27px; padding: 0 8px 0 30px; border-bottom: 1px solid var(--hair-2); background: var(--field); }
.line.picked { background: var(--select); box-shadow: inset -4px 0 var(--ink); }
.sign { min-width: 24px; height: 24px; color: inherit; cursor: pointer; padding: 0 3px; text-align: center; border: 1px solid var(--ink); border-radius: var(--r); font-weight: 600; font-size: var(--fs-11); background: var(--sheet); }
.called { min-width: 0; max-width: 110px; display: flex; font-weight: 600; font-size: var(--fs-13); }
.ms { width: 24px; height: 24px; border: 1px solid var(--hair-2); border-radius: var(--r); background: var(--sheet); color: var(--ink-2); cursor: pointer; padding: 0; flex: none; }
.ms[aria-pressed='true'], .sign[aria-pressed='true'] { background: var(--ink); color: var(--on-ink); border-color: var(--ink); }
.chain { position: relative; }
.rail { position: absolute; left: 18px; top: 0; bottom: 0; width: 3px; background: var(--ink); }
.second .rail { left: 10px; }
.rail.knee { top: 50%; }
.second > .rail.past { left: 18px; opacity: 0.9; z-index: 1; }
.second .line, .second .none, .second .outs { z-index: 0; }
.common .rail.knee { top: 0; }
.gap { height: 0; }
.none { position: relative; margin: 0; padding: 5px 8px 5px 34px; font-size: var(--fs-11); }
.outs { position: relative; display: flex; gap: 6px; padding: 3px 8px 5px 30px; }
.outs > :deep(.field) { flex: 1; min-width: 0; }
.clean { background: none; border-bottom: 0; }
.drop { position: absolute; left: 24px; right: 8px; height: 3px; margin-top: -1px; background: var(--swept); pointer-events: none; z-index: 3; }
.levels { width: 96px; text-align: right; }
</style>
