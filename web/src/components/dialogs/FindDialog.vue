<script setup lang="ts">
/** Finds any action, strip, value or patch by name and does it or goes there; what reads as strips is added. */
import Dialog from './modalDialog'
import { computed, ref, watch } from 'vue'
import { useRouter } from 'vue-router'

import { buttonsOnScreen, fieldsOnScreen, keyOf, type OnScreen, type ShownField } from '../../composables/screen/onScreen'
import { useActions, type Action } from '../../composables/keys/useActions'
import { useOffers } from '../../composables/heard/useOffers'
import { useReveal } from '../../composables/keys/useReveal'
import { inkOf } from '../../draw/tokens'
import { isOfPatch } from '../../composables/screen/isOfPatch'
import { api } from '../../engine/api'
import type { PatchSummary } from '../../engine/generated/PatchSummary'
import { useDocument } from '../../stores/document'

const visible = defineModel<boolean>('visible', { required: true })
const emit = defineEmits<{ help: [] }>()
const document = useDocument()
const router = useRouter()
const reveal = useReveal()
const actions = useActions({ help: () => emit('help') })
const text = ref('')
const at = ref(0)
const patches = ref<PatchSummary[]>([])
/** What the screen had when this was opened. */
const buttons = ref<OnScreen[]>([])
const fields = ref<ShownField[]>([])
const offers = useOffers('add', () => document.selected)
const inBuild = computed(() => document.view !== undefined && isOfPatch(router.currentRoute.value.name))

const line = computed(() => {
  const answer = inBuild.value && text.value.trim() ? document.ask({ ask: 'line', text: text.value }) : undefined
  return answer?.is === 'line' && answer.strips.length ? answer.strips : undefined
})
interface Entry { kind: string; title: string; badge?: number; now?: string; does: string; run: () => unknown }
const words = computed(() => text.value.toLowerCase().split(/\s+/).filter(Boolean))
const holds = (title: string) => words.value.every((word) => title.toLowerCase().includes(word))
/** Those that are called so, or are meant by it, the nearest first; all of them where nothing is typed. */
function fitting<T extends { title: string }>(list: T[]): T[] {
  if (!words.value.length) return list
  const answer = document.ask({ ask: 'ranked', text: text.value, names: list.map(({ title }) => title) })
  if (answer.is !== 'ranked') return list.filter(({ title }) => holds(title))
  const far = (at: number) => answer.far[at] ?? Infinity
  return list.map((one, at) => ({ one, far: far(at) })).filter((each) => each.far < Infinity).sort((a, b) => a.far - b.far).map((each) => each.one)
}
/** What can be added, from the menus of the line below the strips. */
const additions = computed<OnScreen[]>(() => {
  if (!inBuild.value || router.currentRoute.value.name !== 'build') return []
  const flat = offers.value.flatMap((offer) => (offer.items ?? [offer]).map((item) => ({ ...item, under: offer.items ? offer.label : undefined })))
  return flat.map(({ label, under, command }) => ({ title: under ? `Add: ${String(label)} (${String(under)})` : `Add: ${String(label)}`, run: () => command?.({ originalEvent: new Event('find'), item: {} }) }))
})
const KINDS = { patch: 'Patch', strip: 'Strip', source: 'Source', effect: 'Effect' } as const
const begins = ({ title }: OnScreen) => (title.toLowerCase().startsWith(text.value.toLowerCase().trim()) ? 0 : 1)
/** What the patch has under this name: of what is selected first, which stays selected. */
const ofPatch = computed<Entry[]>(() => {
  if (!inBuild.value || !words.value.length) return []
  const answer = document.ask({ ask: 'find', text: text.value })
  const hits = answer.is === 'found' ? answer.hits : []
  const keys = new Set(hits.flatMap(({ address }) => (address ? [keyOf(address)] : [])))
  // what is not selected goes by the name of what it belongs to, where it has one
  const shown = fields.value.filter(({ title, key, isSelected }) => holds(title) && (isSelected || !keys.has(key))).sort((a, b) => begins(a) - begins(b))
  // of several that are selected a single one is gone to by its own name
  const known = new Set(document.units.length > 1 ? [] : shown.map(({ key }) => key))
  return [
    ...shown.map(({ title, now, run }) => ({ kind: 'Value', title, now, does: 'go to', run })),
    ...hits.filter(({ address }) => !address || !known.has(keyOf(address))).map((hit) => ({ kind: hit.address ? 'Value' : hit.section ? 'Choice' : KINDS[hit.of.is], title: hit.title, badge: hit.of.is === 'strip' ? hit.of.id : undefined, now: hit.now, does: hit.address || hit.section ? 'go to' : 'select', run: () => reveal(hit) })),
  ]
})
const entries = computed<Entry[]>(() => {
  const added: Entry[] = []
  if (line.value) added.push({ kind: 'As strips', title: line.value.map((strip) => strip.map((word) => word.text).join(' ')).join('; '), does: line.value.length > 1 ? `add ${line.value.length} strips` : 'add a strip', run: () => document.alter({ ask: 'take_line', text: text.value, units: document.units }) })
  // what is found by an option only comes after the button that chooses it
  const byOption = ofPatch.value.filter((entry) => entry.kind === 'Choice' && !holds(entry.title))
  const named = ofPatch.value.filter((entry) => !byOption.includes(entry))
  // a word alone that names what is there goes there first
  const list = words.value.length > 1 ? [...added, ...named] : [...named, ...added]
  const known = [...additions.value, ...actions()]
  const pressed = words.value.length ? buttons.value.filter(({ title }) => known.every((one) => one.title !== title)) : []
  for (const action of fitting<OnScreen | Action>([...known, ...pressed])) list.push({ kind: 'Action', title: action.title, now: 'keys' in action ? action.keys : undefined, does: 'run', run: action.run })
  for (const patch of patches.value) if (words.value.length && holds(patch.name)) list.push({ kind: 'Patch', title: patch.name, does: 'open', run: () => router.push(`/patch/${patch.id}`) })
  return [...list, ...byOption].slice(0, 40)
})
// with nothing typed nothing is meant until an arrow says so
watch(text, () => (at.value = text.value.trim() ? 0 : -1))
watch(visible, async (open) => {
  if (!open) return
  text.value = ''
  at.value = -1
  buttons.value = buttonsOnScreen()
  const count = document.units.length
  fields.value = inBuild.value ? fieldsOnScreen(router.currentRoute.value.name === 'build' && count > 1 ? `of the ${count} selected` : '') : []
  // what cannot be listed now is not found; the rest is
  patches.value = await api.list(false, 0, 200).then((page) => page.patches, () => [])
})
function run(entry: Entry | undefined, keep = false) {
  if (!entry) return
  if (!keep) visible.value = false
  // after the dialog gave the focus back
  window.setTimeout(() => void entry.run(), keep ? 0 : 60)
}
function key(event: KeyboardEvent) {
  if (event.key === 'ArrowDown') at.value = Math.min(entries.value.length - 1, at.value + 1)
  else if (event.key === 'ArrowUp') at.value = Math.max(text.value.trim() ? 0 : -1, at.value - 1)
  else if (event.key === 'Enter') run(entries.value[at.value], event.shiftKey)
  else return
  event.preventDefault()
  event.stopPropagation()
}
const problem = computed(() => {
  if (!inBuild.value || entries.value.length || !text.value.trim()) return ''
  const answer = document.ask({ ask: 'line', text: text.value })
  return answer.is === 'line' ? (answer.problem ?? '') : ''
})
</script>

<template>
  <Dialog v-model:visible="visible" modal :show-header="false" dismissable-mask position="top" :pt="{ content: { class: 'find' }, root: { 'aria-label': 'Find' } }" :style="{ width: 'min(760px, 94vw)' }">
    <div class="top">
      <input v-model="text" class="sought" role="combobox" aria-expanded="true" aria-controls="found" :aria-activedescendant="entries[at] ? `found-${at}` : undefined" aria-label="Find, or type a strip" placeholder="A name, or a strip as text: saw x0.5 -14dB 30L" autofocus @keydown="key" />
      <kbd>Esc</kbd>
    </div>
    <div v-if="line" class="words" data-testid="line">
      <div v-for="(strip, s) in line" :key="s" class="strip"><span v-for="(word, w) in strip" :key="w"><b>{{ word.text }}</b><small>{{ word.meaning }}</small></span></div>
    </div>
    <ul id="found" role="listbox" aria-label="Found">
      <li v-for="(entry, i) in entries" :id="`found-${i}`" :key="`${entry.kind} ${entry.title} ${i}`" role="option" :aria-selected="i === at" @pointerenter="at = i" @click="run(entry)">
        <span class="muted">{{ entry.kind }}</span>
        <span class="title"><span v-if="entry.badge" class="badge" :style="{ '--c': inkOf(entry.badge) }">{{ entry.badge }}</span>{{ entry.title }}</span>
        <span class="now">{{ entry.now }}</span><span class="muted does">{{ entry.does }}</span>
      </li>
    </ul>
    <p v-if="problem" class="problem" role="status">No match for “{{ text.trim() }}”. {{ problem }}</p>
    <p class="foot muted"><kbd>↑</kbd><kbd>↓</kbd> choose <kbd>Enter</kbd> run <kbd>Shift Enter</kbd> run, keep the line <kbd>;</kbd> next strip <kbd>&gt; 2 1.2rad</kbd> modulates 2</p>
  </Dialog>
</template>

<style scoped>
.top { display: flex; align-items: center; gap: 8px; padding: 10px 0 8px; border-bottom: 1px solid var(--ink); }
.sought { flex: 1; height: 34px; border: 0; background: none; font-size: 20px; font-weight: 600; outline: none; min-width: 0; }
kbd { font: inherit; font-size: var(--fs-11); border: 1px solid var(--hair-2); border-radius: var(--r); padding: 1px 5px; color: var(--ink-2); }
.words { background: var(--select); padding: 8px; }
.strip { display: flex; flex-wrap: wrap; gap: 4px 18px; }
.strip span { display: grid; border-left: 1px solid var(--hair-2); padding-left: 8px; }
.strip b { font-size: 14px; }
.strip small { color: var(--ink-2); font-size: var(--fs-11); }
ul { list-style: none; margin: 0; padding: 4px 0; max-height: 46vh; overflow-y: auto; }
li { display: grid; grid-template-columns: 72px 1fr auto 84px; gap: 10px; align-items: center; min-height: 30px; padding: 0 4px; cursor: pointer; border-radius: var(--r); }
li[aria-selected='true'] { background: var(--select); }
.title { min-width: 0; overflow: hidden; text-overflow: ellipsis; white-space: nowrap; display: flex; gap: 8px; align-items: center; }
.now { font-weight: 600; white-space: nowrap; }
.does { text-align: right; }
.problem { color: var(--warn); }
.foot { display: flex; flex-wrap: wrap; gap: 6px; align-items: center; border-top: 1px solid var(--hair); padding-top: 8px; margin: 4px 0 0; }
</style>
