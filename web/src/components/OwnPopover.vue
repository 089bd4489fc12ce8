<script setup lang="ts">
/** What opens over the page: Escape closes it and nothing else, letters search it, and the focus goes back where it came from. */
import { useEventListener, useTimeoutFn } from '@vueuse/core'
import Popover from 'primevue/popover'
import { nextTick, ref } from 'vue'

const props = defineProps<{
  /** What it is called. */
  label?: string
  /** A list to choose from: a choice closes it, with Shift it stays open for one more. */
  chooses?: boolean
}>()
const emit = defineEmits<{ hide: [] }>()
const popover = ref<InstanceType<typeof Popover>>()
const box = ref<HTMLElement>()
const open = ref(false)
let anchor: HTMLElement | undefined

/** What can be gone to by its first letters, or by the arrows. */
const ITEMS = 'button:not(:disabled), [role=option], [role=menuitem], a[href]'
/** Letters typed within this time are one word, in milliseconds. */
const WORD_MS = 800
let word = ''
const forget = useTimeoutFn(() => (word = ''), WORD_MS, { immediate: false })

function remember(event: Event, target?: HTMLElement) {
  anchor = target ?? (event.currentTarget instanceof HTMLElement ? event.currentTarget : undefined)
}
function show(event: Event, target?: HTMLElement) {
  remember(event, target)
  popover.value?.show(event, target)
}
function toggle(event: Event, target?: HTMLElement) {
  remember(event, target)
  popover.value?.toggle(event, target)
}
const hide = () => popover.value?.hide()

async function shown() {
  open.value = true
  word = ''
  await nextTick()
  const inside = box.value
  if (!inside || inside.contains(document.activeElement)) return
  const chosen = inside.querySelector<HTMLElement>('[aria-pressed=true], [aria-selected=true]')
  ;(chosen ?? inside.querySelector<HTMLElement>('input, button, [tabindex="0"]'))?.focus({ preventScroll: true })
}
function hidden() {
  const had = document.activeElement === document.body || box.value?.contains(document.activeElement)
  open.value = false
  emit('hide')
  if (had && anchor?.isConnected) anchor.focus({ preventScroll: true })
}

const items = () => [...(box.value?.querySelectorAll<HTMLElement>(ITEMS) ?? [])].filter((item) => item.offsetParent !== null)
function goTo(item: HTMLElement | undefined) {
  item?.focus()
  item?.scrollIntoView({ block: 'nearest' })
}
function search(letter: string) {
  word += letter.toLowerCase()
  forget.start()
  const words = (item: HTMLElement) => (item.getAttribute('aria-label') ?? item.textContent).trim().toLowerCase()
  const all = items()
  goTo(all.find((item) => words(item).startsWith(word)) ?? all.find((item) => words(item).includes(word)))
}
function step(by: number) {
  const all = items()
  const at = all.indexOf(document.activeElement as HTMLElement)
  goTo(all[Math.max(0, Math.min(all.length - 1, at + by))])
}

// before all else: what is typed here is meant for this, and closing it closes nothing more
useEventListener(window, 'keydown', (event) => {
  if (!open.value || event.ctrlKey || event.metaKey || event.altKey) return
  const target = event.target instanceof Element ? event.target : undefined
  const typed = target?.closest('input, textarea, select, [role=spinbutton], [role=slider]')
  if (event.key === 'Escape') {
    // a text that is being typed is left first
    if (target?.closest('[data-own-escape]')) return
    hide()
  } else if (typed || box.value?.querySelector('[data-played]')) return
  else if (event.key === 'ArrowDown' || event.key === 'ArrowUp') step(event.key === 'ArrowDown' ? 1 : -1)
  else if (event.key.length === 1 && /\S/.test(event.key)) search(event.key)
  else return
  event.preventDefault()
  event.stopImmediatePropagation()
}, { capture: true })

function chosen(event: MouseEvent) {
  if (props.chooses && !event.shiftKey && event.target instanceof Element && event.target.closest('[role=option]')) hide()
}

defineExpose({ show, toggle, hide })
</script>

<template>
  <Popover ref="popover" :pt="label ? { root: { 'aria-label': label } } : undefined" @show="shown" @hide="hidden"><div ref="box" @click="chosen"><slot /></div></Popover>
</template>
