<script setup lang="ts">
/** Two windows changed the same patch: the later one is told and loses nothing. */
import Button from 'primevue/button'
import Dialog from './modalDialog'
import { useRouter } from 'vue-router'

import { useAct } from '../../composables/heard/useAct'
import { useSaving } from '../../stores/saving'

const saving = useSaving()
const router = useRouter()
const { busy, problem, act } = useAct()
const keepBoth = () => act(async () => router.push(`/patch/${await saving.keepAsNew('(mine)')}`))
</script>

<template>
  <Dialog :visible="saving.state === 'conflict'" modal :closable="false" header="Changed in another window" :style="{ width: '440px' }">
    <p>This patch was saved from another window after you opened it here. Nothing has been overwritten, and your changes are kept.</p>
    <p v-if="problem" class="problem" role="alert">{{ problem }}</p>
    <template #footer>
      <Button label="Take the other" size="small" severity="secondary" variant="outlined" :disabled="busy" @click="act(saving.takeOther)" />
      <Button label="Keep both" size="small" :loading="busy" autofocus @click="keepBoth" />
    </template>
  </Dialog>
</template>

<style scoped>
.problem { color: var(--warn); }
</style>
