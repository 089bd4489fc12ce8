<script setup lang="ts">
/** Two windows changed the same patch: the later one is told and loses nothing. */
import Button from 'primevue/button'
import Dialog from 'primevue/dialog'
import { ref } from 'vue'
import { useRouter } from 'vue-router'

import { useSaving } from '../stores/saving'

const saving = useSaving()
const router = useRouter()
const busy = ref(false)

async function keepBoth() {
  busy.value = true
  try {
    const id = await saving.keepBoth()
    await saving.open(id)
    await router.push(`/patch/${id}`)
  } finally {
    busy.value = false
  }
}
</script>

<template>
  <Dialog :visible="saving.state === 'conflict'" modal :closable="false" header="Changed in another window" :style="{ width: '440px' }">
    <p>This patch was saved from another window after you opened it here. Nothing has been overwritten.</p>
    <template #footer>
      <Button label="Take the other" size="small" severity="secondary" variant="outlined" @click="saving.takeOther" />
      <Button label="Keep both" size="small" :loading="busy" autofocus @click="keepBoth" />
    </template>
  </Dialog>
</template>
