import { createRouter, createWebHistory, type RouteLocationRaw } from 'vue-router'
import { get, type View } from './api/client'

/** The pages, in the order in which an analyst works. */
export const pages = [
  { path: '/overview', name: 'Overview', component: () => import('./pages/OverviewPage.vue') },
  { path: '/import', name: 'Import', component: () => import('./pages/ImportPage.vue') },
  { path: '/calendars', name: 'Calendars', component: () => import('./pages/CalendarsPage.vue') },
  { path: '/quality', name: 'Data quality', component: () => import('./pages/QualityPage.vue') },
  { path: '/orders', name: 'Orders', component: () => import('./pages/OrdersPage.vue') },
  { path: '/labels', name: 'Labels', component: () => import('./pages/LabelsPage.vue') },
  { path: '/how-long', name: 'How long', component: () => import('./pages/HowLongPage.vue') },
  { path: '/open', name: 'Open', component: () => import('./pages/OpenPage.vue') },
  { path: '/statuses', name: 'Statuses', component: () => import('./pages/StatusesPage.vue') },
  { path: '/immediate', name: 'Immediate', component: () => import('./pages/ImmediatePage.vue') },
  { path: '/compare', name: 'Compare', component: () => import('./pages/ComparePage.vue') },
  { path: '/crosstab', name: 'Cross-tab', component: () => import('./pages/CrosstabPage.vue') },
  { path: '/due', name: 'Due', component: () => import('./pages/DuePage.vue') },
  { path: '/views', name: 'Views', component: () => import('./pages/ViewsPage.vue') },
] as const

/** Where a view leads: to the page and the question that it kept. */
async function addressOf(name: string): Promise<RouteLocationRaw> {
  try {
    const view = await get<View>(`/views/${encodeURIComponent(name)}`, {})
    return view.address
  } catch {
    return { path: '/views', query: { missing: name } }
  }
}

export default createRouter({
  history: createWebHistory(),
  routes: [
    ...pages,
    {
      path: '/views/:name',
      component: () => import('./pages/ViewsPage.vue'),
      beforeEnter: (to) => addressOf(String(to.params.name)),
    },
    { path: '/bring-in', redirect: '/import' },
    { path: '/:rest(.*)*', redirect: '/overview' },
  ],
})
