<script setup lang="ts">
/** What is muted, soloed or bypassed for now, with the way out of it; in sight from everywhere. */
import { computed } from 'vue'

import { inkOf } from '../draw/tokens'
import { useDocument } from '../stores/document'

const document = useDocument()
const SIGNS = [['muted', 'M', 'Muted'], ['soloed', 'S', 'Only'], ['bypassed', 'B', 'Bypassed']] as const
const MOVING = ['muted_sources', 'soloed_sources', 'muted_links', 'soloed_links'] as const
/** The first kind there is, and of which strips; routes only by their number. */
const said = computed(() => {
  const now = document.view?.listening
  if (!now || !document.isListening) return undefined
  const [list, letter, word] = SIGNS.find(([name]) => now[name].length > 0) ?? [undefined, 'M', MOVING.some((name) => now[name].length > 0) ? 'Movement muted' : 'Routes muted']
  const strips = list ? (document.view?.strips ?? []).filter((strip) => now[list].includes(strip.id)) : []
  const chains = now.muted_chains.length || now.soloed_chains.length
  const own = list === undefined && !MOVING.some((name) => now[name].length > 0) && (chains || now.up_to !== null || now.band_alone !== null)
  const effects = (document.view?.finish.chains ?? []).flatMap((chain) => chain.effects).filter(({ bypassed }) => bypassed)
  const all = Object.values(now).reduce<number>((sum, ids) => sum + (Array.isArray(ids) ? ids.length : ids === null ? 0 : 1), 0)
  if (own) return { letter: now.soloed_chains.length ? 'S' : 'M', word: now.band_alone !== null ? 'Only an EQ band' : now.up_to !== null ? 'Heard up to an effect' : now.soloed_chains.length ? 'Only a chain' : 'Chain muted', strips: [], more: 0 }
  if (list === 'bypassed' && effects.length) return { letter, word: effects.length > 1 ? 'Without effects' : `Without ${effects[0].title}`, strips, more: all - strips.length - effects.length }
  return { letter, word, strips, more: all - strips.length }
})
</script>

<template>
  <div v-if="said" class="sign" role="status" data-testid="listening">
    <b class="letter">{{ said.letter }}</b>
    <span>{{ said.word }}</span>
    <template v-for="strip in said.strips.slice(0, 3)" :key="strip.id"><span class="badge" :style="{ '--c': inkOf(strip.id) }">{{ strip.id }}</span></template>
    <span v-if="said.strips.length === 1" class="clip" :title="said.strips[0].name">{{ said.strips[0].name }}</span>
    <span v-if="said.more || said.strips.length > 3">and more</span>
    <button type="button" class="icon-btn" aria-label="Hear all" title="Hear all again" @click="document.hearAll()"><i class="pi pi-times" /></button>
  </div>
</template>

<style scoped>
.sign { display: flex; align-items: center; gap: 6px; height: 26px; padding-right: 2px; border: 1px solid var(--ink); border-radius: var(--r); max-width: 220px; min-width: 0; white-space: nowrap; flex: 0 1 auto; }
.letter { align-self: stretch; display: grid; place-items: center; padding: 0 7px; background: var(--ink); color: var(--on-ink); }
.clip { overflow: hidden; text-overflow: ellipsis; min-width: 3em; }
</style>
