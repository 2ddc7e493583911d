import { nextTick, readonly, ref } from 'vue'
import { createRouter, createWebHistory, type RouteLocationRaw } from 'vue-router'
import { asOf, askEarly, get, type View } from './api/client'
import { pages } from './pages'

/** Where a view leads: to the page and the question that it kept. */
async function addressOf(name: string): Promise<RouteLocationRaw> {
  try {
    const view = await get<View>(`/views/${encodeURIComponent(name)}`, {})
    return view.address
  } catch {
    return { path: '/views', query: { missing: name } }
  }
}

const router = createRouter({
  history: createWebHistory(),
  routes: [
    ...pages.map(({ path, name, component, asks }) => ({ path, component, meta: { title: name, asks } })),
    {
      path: '/views/:name',
      component: () => import('./pages/ViewsPage.vue'),
      beforeEnter: (to) => addressOf(String(to.params.name)),
    },
    { path: '/:rest(.*)*', redirect: '/overview' },
  ],
  scrollBehavior(to, from, saved) {
    if (saved) return saved // back and forward
    if (to.path === from.path) return undefined // only the question has changed
    return { top: 0 }
  },
})

// The records as they were are asked for on every page, until the page is left for good.
router.beforeEach((to) => {
  const load = to.query.as_of_load
  if (load) asOf.value = String(load)
  else if (asOf.value) return { ...to, query: { ...to.query, as_of_load: asOf.value } }
})

// A page that is opened by its address need not wait for its script to ask.
router.beforeEach((to, from) => {
  askEarly(from.matched.length === 0 ? (to.meta.asks as string | undefined) : undefined)
})

const said = ref('')
/** What a screen reader is told after a change of page. */
export const announcement = readonly(said)

router.afterEach(async (to, from, failure) => {
  if (failure) return
  const title = to.meta.title as string
  document.title = `${title} – Prairie Dusk`
  if (to.path === from.path || from.matched.length === 0) return
  await nextTick()
  said.value = title
  document.getElementById('main')?.focus({ preventScroll: true })
})

/** How long after a page was loaded anew it is not loaded so again. */
const reloadPause = 10_000

// A page of an older build asks for files that are gone: the page is loaded anew.
router.onError((error, to) => {
  if (!/dynamically imported module|module script failed|preload CSS/i.test(String(error))) return
  if (Date.now() - Number(sessionStorage.getItem('reloaded') ?? 0) < reloadPause) return
  sessionStorage.setItem('reloaded', String(Date.now()))
  location.assign(to.fullPath)
})

export default router
