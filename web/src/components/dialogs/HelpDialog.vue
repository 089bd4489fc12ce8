<script setup lang="ts">
/** Help: all keys and gestures, searchable; and the guide, one page a task. */
import Dialog from './modalDialog'
import { computed, ref, shallowRef, watch } from 'vue'

import type { GuidePage } from '../../composables/screen/guide'
import { KEYMAP } from '../../composables/keys/useKeymap'

const visible = defineModel<boolean>('visible', { required: true })
const sought = ref('')
/** The page of the guide; none is the list of keys. */
const page = ref(-1)
const guide = shallowRef<readonly GuidePage[]>([])
const problem = ref('')
watch(visible, (opened) => {
  if (!opened || guide.value.length) return
  problem.value = ''
  import('../../composables/screen/guide').then(
    ({ GUIDE }) => (guide.value = GUIDE),
    () => (problem.value = 'The guide could not be loaded. Is the server running? Open help again to try it once more.'),
  )
})
const groups = computed(() => {
  const words = sought.value.toLowerCase().split(/\s+/).filter(Boolean)
  const fits = (text: string) => words.every((word) => text.toLowerCase().includes(word))
  return KEYMAP.map(({ title, list }) => ({ title, list: list.filter(({ keys, does }) => fits(`${title} ${keys} ${does}`)) })).filter(({ list }) => list.length)
})
</script>

<template>
  <Dialog v-model:visible="visible" modal header="Help" dismissable-mask :style="{ width: 'min(880px, 94vw)' }">
    <div class="help">
      <nav aria-label="Help">
        <button type="button" :aria-current="page < 0" @click="page = -1">Keys and gestures</button>
        <button v-for="(each, i) in guide" :key="each.title" type="button" :aria-current="page === i" @click="page = i">{{ each.title }}</button>
        <p v-if="problem" role="alert" class="note">{{ problem }}</p>
      </nav>
      <div v-if="page < 0" class="page">
        <input v-model="sought" class="sought" aria-label="Search keys and gestures" placeholder="Search" autofocus />
        <div class="groups" tabindex="0" role="region" aria-label="Keys and gestures">
          <section v-for="group in groups" :key="group.title">
            <h3>{{ group.title }}</h3>
            <dl><template v-for="item in group.list" :key="item.keys + item.does"><dt>{{ item.keys }}</dt><dd>{{ item.does }}</dd></template></dl>
          </section>
          <p v-if="groups.length === 0">Nothing with these words.</p>
        </div>
      </div>
      <!-- eslint-disable-next-line vue/no-v-html -- our own pages, shipped with the application -->
      <article v-else class="page guide" tabindex="0" :aria-label="guide[page].title" data-testid="guide" v-html="guide[page].html" />
    </div>
  </Dialog>
</template>

<style scoped>
.help { display: grid; grid-template-columns: 170px minmax(0, 1fr); gap: 16px; height: 66vh; }
nav { display: grid; align-content: start; gap: 2px; }
nav button { min-height: 30px; padding: 0 8px; border: 0; border-radius: var(--r); background: none; text-align: left; cursor: pointer; }
nav button[aria-current='true'] { background: var(--ink); color: var(--on-ink); font-weight: 600; }
.page { min-height: 0; display: flex; flex-direction: column; }
.guide { display: block; overflow-y: auto; font-size: var(--fs-13); line-height: 1.5; padding-right: 8px; }
.guide :deep(img) { width: 100%; border: 1px solid var(--hair-2); }
.guide :deep(code) { background: var(--field); padding: 1px 4px; border-radius: var(--r); font-family: inherit; font-weight: 600; }
.guide :deep(li) { margin: 4px 0; }
.sought { width: 100%; height: 32px; padding: 0 10px; border: 1px solid var(--hair-2); border-radius: var(--r); background: var(--sheet); font-size: var(--fs-13); }
.groups { overflow-y: auto; margin-top: 8px; }
h3 { margin: 10px 0 4px; font-size: var(--fs-13); }
dl { display: grid; grid-template-columns: 200px 1fr; gap: 4px 12px; margin: 0; }
dt { font-weight: 600; }
dd { margin: 0; color: var(--ink-2); }
@media (max-width: 720px) { .help, dl { grid-template-columns: 1fr; } .help { grid-template-rows: auto minmax(0, 1fr); } }
</style>
