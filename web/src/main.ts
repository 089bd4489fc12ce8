import '@fontsource/ibm-plex-sans-condensed/latin-400.css'
import '@fontsource/ibm-plex-sans-condensed/latin-600.css'
import '@fontsource/ibm-plex-serif/latin-400-italic.css'
import 'primeicons/primeicons.css'
import './styles/tokens.css'
import './styles/base.css'

import { createPinia } from 'pinia'
import PrimeVue from 'primevue/config'
import ToastService from 'primevue/toastservice'
import { createApp } from 'vue'

import App from './App.vue'
import { router } from './router'
import { preset } from './styles/preset'

const nonce = document.querySelector<HTMLMetaElement>('meta[name=style-nonce]')?.content

createApp(App)
  .use(createPinia())
  .use(router)
  .use(PrimeVue, { theme: { preset, options: { darkModeSelector: '[data-theme="dark"]' } }, csp: { nonce } })
  .use(ToastService)
  .mount('#app')
