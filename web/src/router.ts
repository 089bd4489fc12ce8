import { createRouter, createWebHistory } from 'vue-router'

import BuildView from './views/build/BuildView.vue'
import LibraryView from './views/library/LibraryView.vue'

export const router = createRouter({
  history: createWebHistory(),
  routes: [
    { path: '/', name: 'library', component: LibraryView },
    { path: '/patch/:id(\\d+)', name: 'build', component: BuildView },
    { path: '/:rest(.*)*', redirect: '/' },
  ],
})
