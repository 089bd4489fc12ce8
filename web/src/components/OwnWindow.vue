<script setup lang="ts">
/** What is put in here stands in a small window of its own. It is the same page: keys that are no typing mean there what they mean here. */
import { onScopeDispose, shallowRef } from 'vue'

import { isForButton, isTyping } from '../composables/keys/useShortcuts'

const props = defineProps<{ title: string; widthPx: number; heightPx: number }>()
const emit = defineEmits<{ close: []; refused: []; lost: [] }>()
const body = shallowRef<HTMLElement>()

const own = window.open('', '', `popup,width=${props.widthPx},height=${props.heightPx}`)
if (own) {
  own.document.title = props.title
  own.document.documentElement.lang = window.document.documentElement.lang
  window.document.querySelectorAll<HTMLStyleElement | HTMLLinkElement>('style, link[rel=stylesheet]').forEach((style) => {
    const copy = own.document.importNode(style, true)
    copy.nonce = style.nonce
    own.document.head.append(copy)
  })
  dress()
  own.document.body.classList.add('own-window')
  body.value = own.document.body
  const again = (event: KeyboardEvent) => {
    if (isTyping(event.target) || isForButton(event)) return
    if (!window.dispatchEvent(new KeyboardEvent(event.type, { ...init(event), cancelable: true }))) event.preventDefault()
  }
  own.addEventListener('keydown', again)
  own.addEventListener('keyup', again)
  own.addEventListener('blur', () => emit('lost'))
  own.addEventListener('pagehide', () => emit('close'))
} else emit('refused')

function init({ key, code, ctrlKey, metaKey, altKey, shiftKey, repeat }: KeyboardEvent): KeyboardEventInit {
  return { key, code, ctrlKey, metaKey, altKey, shiftKey, repeat }
}
/** Light or dark as the page is. */
function dress() {
  const from = window.document.documentElement
  if (own) for (const { name, value } of from.attributes) own.document.documentElement.setAttribute(name, value)
}
const watcher = new MutationObserver(dress)
watcher.observe(window.document.documentElement, { attributes: true })
const gone = () => own?.close()
window.addEventListener('pagehide', gone)
onScopeDispose(() => {
  watcher.disconnect()
  window.removeEventListener('pagehide', gone)
  gone()
})
</script>

<template>
  <Teleport v-if="body" :to="body"><slot /></Teleport>
</template>
