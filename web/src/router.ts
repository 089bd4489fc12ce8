import { createRouter, createWebHistory } from 'vue-router'

import LibraryView from './views/library/LibraryView.vue'
import PatchView from './views/PatchView.vue'

export const router = createRouter({
  history: createWebHistory(),
  routes: [
    { path: '/', name: 'library', component: LibraryView },
    { path: '/patch/:id(\\d+)', name: 'build', component: PatchView },
    { path: '/patch/:id(\\d+)/move', name: 'move', component: PatchView },
    { path: '/patch/:id(\\d+)/finish', name: 'finish', component: PatchView },
    { path: '/:rest(.*)*', redirect: '/' },
  ],
})
