import vue from '@vitejs/plugin-vue'
import { defineConfig } from 'vite'

export default defineConfig({
  plugins: [vue()],
  // no inlined files: the content security policy allows scripts and fonts from the server only
  build: { assetsInlineLimit: 0, target: 'es2022', chunkSizeWarningLimit: 700 },
  worker: { format: 'es' },
})
