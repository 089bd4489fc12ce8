import { createRouter, createWebHistory } from 'vue-router'

/** Each view is a file of its own: the one that is looked at is loaded first, the other as soon as there is time. */
const library = () => import('./views/library/LibraryView.vue')
const patch = () => import('./views/PatchView.vue')
/** Loads all views. */
export const loadViews = () => Promise.all([library(), patch()])

export const router = createRouter({
  history: createWebHistory(),
  routes: [
    { path: '/', name: 'library', component: library },
    { path: '/patch/:id(\\d+)', name: 'build', component: patch },
    { path: '/patch/:id(\\d+)/move', name: 'move', component: patch },
    { path: '/patch/:id(\\d+)/finish', name: 'finish', component: patch },
    { path: '/:rest(.*)*', redirect: '/' },
  ],
})
