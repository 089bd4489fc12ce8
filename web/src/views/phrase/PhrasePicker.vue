<script setup lang="ts">
/** Which phrase the patch is tried with: those of the application, those kept here, one from a MIDI file, or one that is played. */
import { ref, shallowRef } from 'vue'

import Popover from '../../components/OwnPopover.vue'
import { keptApi, type Kept } from '../../engine/kept'
import type { ReadyPhraseView } from '../../engine/generated/ReadyPhraseView'
import { useDocument } from '../../stores/document'
import { useMessages } from '../../stores/messages'

const document = useDocument()
const messages = useMessages()
const popover = ref<InstanceType<typeof Popover>>()
const ready = shallowRef<ReadyPhraseView[]>([])
const own = shallowRef<Kept[]>([])
const failed = (summary: string, detail: string) => messages.add({ severity: 'warn', summary, detail, life: 6000 })
async function open(event: Event) {
  const answer = document.ask({ ask: 'phrases' })
  if (answer.is === 'phrases') ready.value = answer.list
  popover.value?.show(event)
  own.value = await keptApi.all('phrase').catch(() => [])
}
function take(at: number, fromItsKey: boolean) {
  document.alter({ ask: 'take_phrase', at, from_its_key: fromItsKey })
  popover.value?.hide()
}
function give(kept: Kept) {
  const why = document.alter({ ask: 'give_phrase', text: kept.document })
  if (!why) popover.value?.hide()
}
async function keep() {
  const answer = document.ask({ ask: 'phrase_text' })
  const name = document.view?.phrase?.name
  if (answer.is !== 'text' || !name) return
  try {
    await keptApi.keep('phrase', name, answer.text)
    own.value = await keptApi.all('phrase')
    messages.add({ severity: 'success', summary: 'Kept', detail: `“${name}” can be taken in every patch.`, life: 3000 })
  } catch (error) {
    failed('Not kept', (error as Error).message)
  }
}
async function forget(kept: Kept) {
  await keptApi.forget('phrase', kept.name).catch((error: Error) => failed('Not forgotten', error.message))
  own.value = await keptApi.all('phrase').catch(() => own.value)
}
defineExpose({ keep })
</script>

<template>
  <button type="button" class="btn pick" aria-haspopup="true" title="Choose a phrase" @click="open">{{ document.view?.phrase ? 'Phrases' : 'Choose a phrase' }} <i class="pi pi-angle-down" /></button>
  <Popover ref="popover" :pt="{ root: { 'aria-label': 'Phrases to choose from' } }">
    <div class="list" role="group" aria-label="Phrases">
      <div v-for="(phrase, at) in ready" :key="phrase.name" class="line">
        <button type="button" class="take" @click="take(at, false)"><b>{{ phrase.name }}</b><span class="muted">{{ phrase.help }}</span></button>
        <button type="button" class="btn" :title="`Also moves the auditioned note to ${phrase.key_name}, where it sounds good`" @click="take(at, true)">from {{ phrase.key_name }}</button>
      </div>
      <h3 v-if="own.length">Kept here</h3>
      <div v-for="kept in own" :key="kept.name" class="line">
        <button type="button" class="take" :disabled="kept.damaged" @click="give(kept)"><b>{{ kept.name }}</b><span v-if="kept.damaged" class="warn">Damaged: keep it again under this name, or forget it</span></button>
        <button type="button" class="icon-btn" :aria-label="`Forget ${kept.name}`" title="Forget" @click="forget(kept)"><i class="pi pi-times" /></button>
      </div>
      <button v-if="document.view?.phrase" type="button" class="btn none" @click="document.alter({ ask: 'no_phrase' }); popover?.hide()">No phrase: the note by itself</button>
    </div>
  </Popover>
</template>

<style scoped>
.pick { font-weight: 600; max-width: 190px; overflow: hidden; text-overflow: ellipsis; }
.list { width: 420px; max-height: 60vh; overflow-y: auto; }
.line { display: flex; gap: 8px; align-items: center; border-bottom: 1px solid var(--hair); }
.take { all: unset; flex: 1; cursor: pointer; padding: 4px; display: grid; }
.warn { color: var(--warn); }
.take:hover { background: var(--field-hover); }
.take:focus-visible { outline: 2px solid var(--swept); }
h3 { margin: 8px 0 2px; }
.none { margin-top: 8px; }
</style>
