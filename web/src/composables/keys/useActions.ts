/** Acts that can be found by name, with their keys. */
import { nextTick } from 'vue'
import { useRouter } from 'vue-router'

import { isOfPatch } from '../screen/isOfPatch'
import { useDocument } from '../../stores/document'
import { useFinish } from '../../stores/finish'
import { usePlaying } from '../../stores/playing'
import { useSettings } from '../../stores/settings'

export interface Action { title: string; keys?: string; run: () => unknown }

export function useActions(open: { help: () => void }): () => Action[] {
  const document = useDocument()
  const finish = useFinish()
  const playing = usePlaying()
  const settings = useSettings()
  const router = useRouter()
  return () => {
    const [one] = document.units
    const build = document.view !== undefined && isOfPatch(router.currentRoute.value.name)
    const always: Action[] = [
      { title: playing.auditioning ? 'Stop' : 'Play the auditioned note', keys: 'Space', run: () => (playing.auditioning ? playing.stop() : playing.play()) },
      { title: 'All notes off', run: () => playing.panic() },
      { title: settings.dark ? 'Light' : 'Dark', run: () => settings.switchTheme() },
      { title: settings.keysOpen ? 'Fold the keyboard' : 'Open the keyboard', run: () => (settings.keysOpen = !settings.keysOpen) },
      { title: 'Keys and gestures', keys: '?', run: open.help },
      { title: 'Go to the library', run: () => router.push('/') },
    ]
    if (!build) return always
    const selected: Action[] = one === undefined ? [] : [
      { title: 'Duplicate what is selected', keys: 'Ctrl+D', run: () => document.edit({ do: 'duplicate_units', units: document.units }) },
      { title: 'Remove what is selected', keys: 'Delete', run: () => document.edit({ do: 'remove_unit', unit: one }) },
      { title: 'Add feedback to what is selected', run: () => document.edit({ do: 'add_route', from: one, to: one, kind: 'phase' }) },
      { title: 'Group what is selected', keys: 'Ctrl+G', run: () => document.edit({ do: 'group_units', units: document.units }) },
      { title: 'Mute what is selected', run: () => document.toggleAll('muted', document.units, true) },
      { title: 'Hear only what is selected', run: () => document.toggleAll('soloed', document.units, true) },
    ]
    const toFinish = () => router.push({ name: 'finish', params: router.currentRoute.value.params })
    // behind the selected effect, else behind all
    const chain = finish.chain ?? finish.chains.find(({ id }) => id === 'common')
    const here = chain?.effects.findIndex(({ id }) => id === finish.selected) ?? -1
    const effects: Action[] = chain === undefined ? [] : document.effectKinds.map(({ kind, label }) => ({
      title: `Add an effect: ${label}, in ${chain.name}${here < 0 ? '' : `, after ${chain.effects[here].title}`}`,
      run: () => {
        document.edit({ do: 'add_effect', chain: chain.id, kind, at: here < 0 ? null : here + 1 })
        return toFinish()
      },
    }))
    const toMove = () => router.push({ name: 'move', params: router.currentRoute.value.params })
    const sources: Action[] = document.sourceKinds.map(({ kind, label }) => ({
      title: `Add a source: ${label}`,
      run: () => {
        document.edit({ do: 'add_source', kind, to: [] })
        return toMove()
      },
    }))
    /** What stands beside the phrase, by the name of its button. */
    const beside = (title: string, button: string): Action => ({
      title,
      run: async () => {
        settings.picture = 'phrase'
        await nextTick()
        const all = [...window.document.querySelectorAll<HTMLButtonElement>('[data-testid=phrase] button')]
        all.find(({ textContent }) => textContent.trim() === button)?.click()
      },
    })
    const phrases: Action[] = [
      beside('Record a phrase', 'Record'),
      beside('Import MIDI as the phrase', 'Import MIDI'),
      beside('Export the phrase as MIDI', 'Export MIDI'),
    ]
    return [
      ...selected,
      ...sources,
      ...phrases,
      { title: 'Undo', keys: 'Ctrl+Z', run: () => document.undo() },
      { title: 'Redo', keys: 'Ctrl+Shift+Z', run: () => document.redo() },
      { title: 'Select all strips', keys: 'Ctrl+A', run: () => document.selectAll() },
      { title: 'Select the whole patch', keys: 'Escape', run: () => document.select(null) },
      { title: 'Tuning and scale of the patch, Scala files; quality', run: async () => { await router.push({ name: 'build', params: router.currentRoute.value.params }); document.select(null) } },
      { title: 'Hear all again', run: () => document.hearAll() },
      ...always,
      ...effects,
    ]
  }
}
