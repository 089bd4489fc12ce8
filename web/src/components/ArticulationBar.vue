<script setup lang="ts">
/** Variants of the patch: which is heard, one more, and what is different in them, side by side. */
import Dialog from './dialogs/modalDialog'
import { computed, ref, shallowRef } from 'vue'

import NameField from './NameField.vue'
import type { Answer } from '../engine/generated/Answer'
import { useControllers } from '../stores/controllers'
import { useDocument } from '../stores/document'

/** Where there is no room for all side by side. */
defineProps<{ folded?: boolean }>()
const document = useDocument()
const controllers = useControllers()
const list = computed(() => document.view?.articulations ?? [])
const heard = computed(() => document.view?.articulation ?? null)
/** The base and all variants, to choose from. */
const choices = computed(() => [{ at: -1, label: 'Base' }, ...list.value.map(({ name, key_name }, at) => ({ at, label: key_name ? `${name} ${key_name}` : name }))])
const chosen = (event: Event) => {
  const at = Number((event.target as HTMLSelectElement).value)
  controllers.go(at < 0 ? null : at)
}
const MOST = 8
const comparing = ref(false)
const shown = shallowRef<Extract<Answer, { is: 'differences' }>>()
/** A key that switches: the lowest ones, out of the way of what is played. */
const LOWEST_KEY = 24
const problem = ref('')

function add() {
  const names = new Set(list.value.map(({ name }) => name))
  const free = ['Soft', 'Hard', 'Short', 'Long', 'Open', 'Closed', 'Wide', 'Low'].find((name) => !names.has(name)) ?? `Variant ${list.value.length + 1}`
  document.edit({ do: 'add_articulation', name: free })
}
function compare() {
  const answer = document.ask({ ask: 'differences' })
  if (answer.is !== 'differences') return
  shown.value = answer
  comparing.value = true
}
function rekey(at: number, event: Event) {
  const typed = (event.target as HTMLInputElement).value.trim()
  problem.value = ''
  if (!typed) document.edit({ do: 'key_articulation', at, key: null })
  else {
    const key = keyOf(typed)
    if (key === undefined) problem.value = `${typed} is no key; type a note such as C1, or nothing`
    else document.edit({ do: 'key_articulation', at, key })
  }
  refresh()
}
/** The key of a typed note, as the core reads it. */
function keyOf(typed: string): number | undefined {
  const answer = document.ask({ ask: 'key_of', text: typed })
  document.refusal = ''
  return answer.is === 'key' ? answer.key : undefined
}
const refresh = () => {
  const answer = document.ask({ ask: 'differences' })
  if (answer.is === 'differences') shown.value = answer
}
const remove = (at: number) => {
  document.edit({ do: 'remove_articulation', at })
  refresh()
}
const rename = (at: number, name: string) => {
  document.edit({ do: 'rename_articulation', at, name })
  refresh()
}
const give = () => list.value.forEach(({ key }, at) => key === null && document.edit({ do: 'key_articulation', at, key: LOWEST_KEY + at }))
</script>

<template>
  <span v-if="list.length === 0"><button type="button" class="btn" title="The same sound, another movement: a variant keeps only what you change in it" @click="add">+ Articulation</button></span>
  <span v-else class="bar">
    <select v-if="folded" class="which" aria-label="Articulation" title="Which variant is heard" :value="heard ?? -1" @change="chosen"><option v-for="{ at, label } in choices" :key="at" :value="at">{{ label }}</option></select>
    <span v-else class="seg" role="group" aria-label="Articulation">
      <button type="button" :aria-pressed="heard === null" title="What all have in common (program 0)" @click="controllers.go(null)">Base</button>
      <button v-for="({ name, key_name, differences }, at) in list" :key="at" type="button" :aria-pressed="heard === at" :title="`${differences} different${key_name ? `; key ${key_name}` : ''}; program ${at + 1}`" @click="controllers.go(at)">{{ name }} <small v-if="key_name">{{ key_name }}</small></button>
    </span>
    <button v-if="list.length < MOST" type="button" class="icon-btn" aria-label="Add an articulation" title="One more, like the one that is heard" @click="add"><i class="pi pi-plus" /></button>
    <button type="button" class="link-btn" aria-label="Differences" title="What is different, side by side; names, keys, removing" @click="compare">{{ folded ? '≠' : 'Differences' }}</button>
  </span>
  <Dialog v-model:visible="comparing" modal header="Articulations" :style="{ width: '760px' }">
    <table v-if="shown" class="table">
      <thead>
        <tr><td /><th v-for="(name, n) in shown.names" :key="n">
          <template v-if="n === 0">{{ name }}</template>
          <NameField v-else :name="name" label="Articulation name" @rename="rename(n - 1, $event)" />
        </th></tr>
        <tr class="keys"><th scope="row">Keyswitch</th><td /><td v-for="({ key_name }, at) in list" :key="at"><input :value="key_name ?? ''" :aria-label="`Key of ${list[at].name}`" placeholder="none" @change="rekey(at, $event)" /></td></tr>
      </thead>
      <tbody>
        <tr v-for="row in shown.rows" :key="row.title"><th scope="row">{{ row.title }}</th><td v-for="(value, n) in row.values" :key="n" :class="{ same: n > 0 && row.same[n], own: n > 0 && !row.same[n] }">{{ value }}</td></tr>
        <tr v-if="shown.rows.length === 0"><td :colspan="shown.names.length + 1" class="muted">Nothing is different yet: go to one and change what you like.</td></tr>
      </tbody>
      <tfoot><tr><td /><td /><td v-for="(_, at) in list" :key="at"><button type="button" class="btn" :aria-label="`Remove ${list[at].name}`" @click="remove(at)">Remove</button></td></tr></tfoot>
    </table>
    <p v-if="problem" class="problem" role="alert">{{ problem }}</p>
    <div class="bar">
      <button type="button" class="btn" @click="give(); refresh()">Give them keys from C1 up</button>
      <button v-if="heard !== null" type="button" class="btn" title="As in the base again, in all" @click="document.edit({ do: 'settle', address: null, take_back: true }); refresh()">Reset {{ list[heard].name }}</button>
    </div>
  </Dialog>
</template>

<style scoped>
.bar { display: inline-flex; align-items: center; gap: 4px; }
small { font-weight: 400; }
.which { height: var(--hit); max-width: 11em; border: 1px solid var(--hair-2); border-radius: var(--r); background: var(--sheet); font-weight: 600; }
.seg button { max-width: 9em; overflow: hidden; text-overflow: ellipsis; white-space: nowrap; }
.table { width: 100%; border-collapse: collapse; margin-bottom: 10px; }
th, td { text-align: left; padding: 3px 8px; border-bottom: 1px solid var(--hair); font-weight: 400; vertical-align: baseline; }
thead th { font-weight: 600; }
.keys input { width: 60px; height: var(--hit); border: 1px solid var(--hair-2); border-radius: var(--r); background: var(--sheet); padding: 0 4px; }
.same { color: var(--ink-3); }
.own { font-weight: 600; }
.problem { color: var(--warn); }
</style>
