<script setup lang="ts">
/** Ready settings of an effect's kind, and those this installation keeps. */
import { computed, onMounted, ref } from 'vue'

import type { EffectView } from '../../engine/generated/EffectView'
import { useDocument } from '../../stores/document'
import { useFinish } from '../../stores/finish'

const props = defineProps<{ effect: EffectView }>()
defineEmits<{ done: [] }>()
const document = useDocument()
const finish = useFinish()
const name = ref('')
const problem = ref('')
const names = computed(() => document.effectKinds.find(({ kind }) => kind === props.effect.kind)?.ready ?? [])
const kept = computed(() => finish.keptFor(props.effect.kind))
/** What the store does is told where it was asked. */
async function tell(act: Promise<unknown>) {
  problem.value = ''
  try {
    await act
  } catch (error) {
    problem.value = error instanceof Error ? error.message : String(error)
  }
}
onMounted(() => tell(finish.lookKept()))
async function keep() {
  const called = name.value.trim() || props.effect.title
  await tell(finish.keep(props.effect.id, called))
  name.value = ''
}
</script>

<template>
  <div class="ready" role="group" aria-label="Ready settings">
    <button v-for="(label, at) in names" :key="label" type="button" class="btn" :class="{ on: effect.title === label }" @click="document.alter({ ask: 'take_ready_effect', effect: effect.id, at })">{{ label }}</button>
    <span v-for="one in kept" :key="one.name" class="kept">
      <button type="button" class="btn" :class="{ on: effect.title === one.name }" @click="document.alter({ ask: 'take_kept_effect', effect: effect.id, name: one.name, text: one.document })">{{ one.name }}</button>
      <button type="button" class="icon-btn" :aria-label="`Forget ${one.name}`" :title="`Forget ${one.name}`" @click="tell(finish.forget(one.name))"><i class="pi pi-times" /></button>
    </span>
    <span class="spacer" />
    <input v-model="name" class="name" placeholder="Keep as" aria-label="Name to keep it under" @keydown.enter.prevent="keep"><button type="button" class="btn" @click="keep">Keep</button>
    <p v-if="problem" class="problem" role="alert">{{ problem }}</p>
  </div>
</template>

<style scoped>
.ready { display: flex; flex-wrap: wrap; gap: 5px; padding: 2px 10px 7px; border-bottom: 1px solid var(--hair); }
.kept { display: inline-flex; align-items: center; }
.kept .btn { border-style: dashed; }
.name { width: 110px; height: var(--hit); border: 1px solid var(--hair-2); border-radius: var(--r); background: var(--sheet); padding: 0 6px; }
.problem { flex-basis: 100%; margin: 0; color: var(--warn); }
</style>
