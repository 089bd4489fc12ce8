<script setup lang="ts">
/** Deleting for good is asked about, since nothing brings it back. */
import Button from 'primevue/button'

import Dialog from '../../components/dialogs/modalDialog'

defineProps<{ header: string; keep: string; busy: boolean }>()
const emit = defineEmits<{ go: [] }>()
const visible = defineModel<boolean>('visible', { required: true })
</script>

<template>
  <Dialog v-model:visible="visible" modal :header="header" :style="{ width: '420px' }">
    <p><slot /></p>
    <template #footer>
      <Button :label="keep" size="small" severity="secondary" variant="outlined" autofocus @click="visible = false" />
      <Button label="Delete for good" size="small" severity="danger" :loading="busy" @click="emit('go')" />
    </template>
  </Dialog>
</template>
