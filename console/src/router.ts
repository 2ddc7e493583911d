import { createRouter, createWebHistory } from 'vue-router'

/** The pages, in the order in which an analyst works. */
export const pages = [
  { path: '/bring-in', name: 'Bring in', component: () => import('./pages/BringInPage.vue') },
  { path: '/calendars', name: 'Calendars', component: () => import('./pages/CalendarsPage.vue') },
  { path: '/doubts', name: 'Doubts', component: () => import('./pages/DoubtsPage.vue') },
  { path: '/orders', name: 'Orders', component: () => import('./pages/OrdersPage.vue') },
  { path: '/how-long', name: 'How long', component: () => import('./pages/HowLongPage.vue') },
  { path: '/due', name: 'Due', component: () => import('./pages/DuePage.vue') },
] as const

export default createRouter({
  history: createWebHistory(),
  routes: [...pages, { path: '/:rest(.*)*', redirect: '/how-long' }],
})
