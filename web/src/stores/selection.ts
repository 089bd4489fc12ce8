/** What is selected of the open document: strips, a source of movement, the effect that was made last. */
import { computed, ref, type ShallowRef } from 'vue'

import type { DocumentView } from '../engine/generated/DocumentView'

/** The list without what was in it, or with what was not. */
export const toggled = <T>(list: T[], id: T) => (list.includes(id) ? list.filter((i) => i !== id) : [...list, id])

export function makeSelection(view: ShallowRef<DocumentView | undefined>) {
  const selected = ref<number | null>(null)
  /** Strips selected beside the first one. */
  const others = ref<number[]>([])
  /** The selected source of movement, in Move. */
  const source = ref<number | null>(null)
  /** What was made last that is no strip: an effect. */
  const made = ref<number | null>(null)
  /** The strip pointed at: what it takes part in lights up. */
  const lit = ref<number | null>(null)
  /** All selected units, the first one first. */
  const units = computed(() => (selected.value === null ? [] : [selected.value, ...others.value]))
  /** Selects these strips and no others, the first one first. */
  function pick(list: number[]) {
    selected.value = list[0] ?? null
    // the same list stays, so that nothing is drawn anew
    const rest = list.slice(1)
    if (rest.join() !== others.value.join()) others.value = rest
  }
  /** Selects all strips from the one selected to this one, in the order they are drawn in. */
  function selectTo(id: number) {
    const order = view.value?.strips.map((strip) => strip.id) ?? []
    const [from, to] = [order.indexOf(selected.value ?? id), order.indexOf(id)]
    const range = order.slice(Math.min(from, to), Math.max(from, to) + 1)
    pick(from <= to ? range : range.reverse())
  }
  const selectAll = () => pick(view.value?.strips.map((strip) => strip.id) ?? [])
  /** As a click selects: with Shift a range, with Control one more or one less. */
  function selectBy(event: MouseEvent, id: number) {
    if (event.shiftKey) selectTo(id)
    else select(id, event.ctrlKey || event.metaKey)
  }
  /** Selects a strip; together with those selected already if `more`. */
  function select(id: number | null, more = false) {
    if (!more || id === null || selected.value === null) {
      selected.value = id
      others.value = []
    } else if (id === selected.value) {
      selected.value = others.value.shift() ?? null
    } else {
      others.value = toggled(others.value, id)
    }
  }

  const selectedStrip = computed(() => view.value?.strips.find((strip) => strip.id === selected.value))
  const selectedSource = computed(() => view.value?.sources.find(({ id }) => id === source.value))
  /** What is new is all that is selected; what is gone is selected no more. */
  function follow(now: DocumentView, select: number[]) {
    const there = now.strips.map((strip) => strip.id)
    const sources = now.sources.map(({ id }) => id)
    const begun = select.find((id) => sources.includes(id))
    if (begun !== undefined) source.value = begun
    else if (source.value !== null && !sources.includes(source.value)) source.value = null
    const effects = now.finish.chains.flatMap((chain) => chain.effects.map(({ id }) => id))
    made.value = select.find((id) => effects.includes(id)) ?? null
    const strips = select.filter((id) => there.includes(id))
    const kept = strips.length ? strips : units.value.filter((id) => there.includes(id))
    pick(kept)
  }

  return { selected, others, source, made, lit, units, selectedStrip, selectedSource, pick, select, selectTo, selectAll, selectBy, follow }
}
