<script setup lang="ts">
/** The renders of the server, in whichever window they were begun: how far they are; stopped, gone on with, saved or removed. */
import { useIntervalFn } from '@vueuse/core'
import ProgressBar from 'primevue/progressbar'
import { computed, ref } from 'vue'

import { downloadFrom } from '../../composables/screen/download'
import type { RenderView } from '../../engine/generated/RenderView'
import { rendersApi } from '../../engine/renders'

/** The one that is followed has its own place beside this list. */
const props = defineProps<{ followed?: string }>()
const emit = defineEmits<{ failed: [error: unknown]; resumed: [id: string] }>()
const renders = ref<RenderView[]>([])
const others = computed(() => renders.value.filter(({ id }) => id !== props.followed))
const EACH_MS = 700

let asked = 0
async function look() {
  const turn = ++asked
  const found = await rendersApi.list().catch(() => undefined)
  if (found && turn === asked) renders.value = found
}
useIntervalFn(look, EACH_MS, { immediateCallback: true })

const act = (what: Promise<unknown>) => what.catch((error: unknown) => emit('failed', error)).finally(look)
async function resume(id: string) {
  await act(rendersApi.resume(id))
  emit('resumed', id)
}
const files = (count: number) => `${count} ${count === 1 ? 'file' : 'files'}`
const percent = ({ progress: { done, part, of } }: RenderView) => Math.round(((done + (done < of ? part : 0)) / Math.max(1, of)) * 100)
</script>

<template>
  <section v-if="others.length" class="renders" aria-label="Renders">
    <h3>Renders</h3>
    <ul>
      <li v-for="render in others" :key="render.id" :data-render="render.id">
        <span class="what">
          <span class="clip strong" :title="render.name">{{ render.name }}</span>
          <span class="muted">{{ render.progress.done }} of {{ files(render.progress.of) }}<template v-if="render.progress.problem">, {{ render.progress.problem }}</template></span>
          <ProgressBar :value="percent(render)" :show-value="false" :aria-label="`Progress of ${render.name}`" />
        </span>
        <button v-if="!render.progress.ended" type="button" class="btn" @click="act(rendersApi.stop(render.id))">Stop</button>
        <template v-else>
          <button v-if="render.progress.done < render.progress.of" type="button" class="btn" title="Goes on after the files that are done" @click="resume(render.id)">Go on</button>
          <button v-if="render.progress.done" type="button" class="btn" @click="downloadFrom(rendersApi.fileUrl(render.id))">Save {{ files(render.progress.done) }}</button>
          <button type="button" class="icon-btn" :aria-label="`Remove ${render.name}`" title="Remove" @click="act(rendersApi.remove(render.id))"><i class="pi pi-times" /></button>
        </template>
      </li>
    </ul>
  </section>
</template>

<style scoped>
.renders { margin-top: 12px; border-top: 1px solid var(--hair); padding-top: 8px; }
h3 { font-size: var(--fs-12); font-weight: 600; margin: 0 0 4px; }
ul { list-style: none; margin: 0; padding: 0; max-height: 168px; overflow-y: auto; }
li { display: flex; align-items: center; gap: 8px; padding: 4px 0; }
.what { flex: 1; min-width: 0; display: grid; gap: 2px; }
</style>
