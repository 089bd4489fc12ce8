<script setup lang="ts">
defineProps<{ on: boolean; label: string }>()
defineEmits<{ switch: [on: boolean] }>()
</script>

<template>
  <button type="button" class="toggle" role="switch" :aria-checked="on" @click="$emit('switch', !on)"><i />{{ label }}</button>
</template>
