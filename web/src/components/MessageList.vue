<script setup lang="ts">
/** The bell: what was said lately, to be read again. */
import { ref } from 'vue'

import Popover from './OwnPopover.vue'
import { timeOfDay } from '../draw/dates'
import { useMessages } from '../stores/messages'

const messages = useMessages()
const list = ref<InstanceType<typeof Popover>>()
function open(event: Event) {
  messages.read()
  list.value?.toggle(event)
}
</script>

<template>
  <button type="button" class="icon-btn bell" aria-haspopup="true" :aria-label="messages.unread ? `Messages, ${messages.unread} new` : 'Messages'" title="Recent messages" @click="open">
    <i class="pi pi-bell" /><b v-if="messages.unread" aria-hidden="true" />
  </button>
  <Popover ref="list" label="Messages">
    <ul class="messages" aria-label="Messages">
      <li v-for="message in messages.list" :key="message.id" :class="message.severity"><span class="muted">{{ timeOfDay(message.at) }}</span><span><b>{{ message.summary }}</b> {{ message.detail }}</span></li>
      <li v-if="messages.list.length === 0">No messages.</li>
    </ul>
  </Popover>
</template>

<style scoped>
.bell { position: relative; }
.bell b { position: absolute; right: 4px; top: 4px; width: 6px; height: 6px; border-radius: 50%; background: var(--warn); }
.messages { list-style: none; margin: 0; padding: 0; display: grid; gap: 6px; max-width: 360px; max-height: 50vh; overflow-y: auto; }
li { display: grid; grid-template-columns: 52px 1fr; gap: 8px; }
li:only-child:not([class]) { display: block; }
.error b, .warn b { color: var(--warn); }
</style>
