import {
  mdiBookmarkOutline,
  mdiCalendarBlankOutline,
  mdiCalendarMultiselectOutline,
  mdiCheckAll,
  mdiClockOutline,
  mdiCompareHorizontal,
  mdiFlashOutline,
  mdiHelpRhombusOutline,
  mdiHistory,
  mdiInboxOutline,
  mdiLabelOutline,
  mdiMapMarkerPath,
  mdiMapOutline,
  mdiTable,
  mdiTimelineClockOutline,
  mdiTimerSandEmpty,
  mdiTrayArrowDown,
  mdiViewListOutline,
  mdiWeatherSunsetUp,
} from '@mdi/js'

/** A page of the console. */
export interface Page {
  path: string
  name: string
  icon: string
  /** The group in the list of pages; the overview is in none. */
  group?: 'Records' | 'Answers' | 'Saved'
  /** Its question has a period and a condition, which stay as one goes from page to page. */
  scoped?: boolean
  component: () => Promise<unknown>
  /** What it asks first, whatever its address says. */
  asks?: string
}

/** The pages, in the order in which an analyst works. */
export const pages: readonly Page[] = [
  {
    path: '/overview',
    name: 'Overview',
    icon: mdiWeatherSunsetUp,
    asks: '/overview',
    component: () => import('./pages/OverviewPage.vue'),
  },
  {
    path: '/import',
    name: 'Import',
    icon: mdiTrayArrowDown,
    group: 'Records',
    component: () => import('./pages/ImportPage.vue'),
  },
  {
    path: '/calendars',
    name: 'Calendars',
    icon: mdiCalendarBlankOutline,
    group: 'Records',
    component: () => import('./pages/CalendarsPage.vue'),
  },
  {
    path: '/quality',
    name: 'Data quality',
    icon: mdiHelpRhombusOutline,
    group: 'Records',
    component: () => import('./pages/QualityPage.vue'),
  },
  {
    path: '/orders',
    name: 'Orders',
    icon: mdiViewListOutline,
    group: 'Records',
    scoped: true,
    component: () => import('./pages/OrdersPage.vue'),
  },
  {
    path: '/labels',
    name: 'Labels',
    icon: mdiLabelOutline,
    group: 'Records',
    component: () => import('./pages/LabelsPage.vue'),
  },
  {
    path: '/changes',
    name: 'Changes',
    icon: mdiCompareHorizontal,
    group: 'Records',
    component: () => import('./pages/ChangesPage.vue'),
  },
  {
    path: '/audit',
    name: 'Audit',
    icon: mdiHistory,
    group: 'Records',
    component: () => import('./pages/AuditPage.vue'),
  },
  {
    path: '/how-long',
    name: 'How long',
    icon: mdiClockOutline,
    group: 'Answers',
    scoped: true,
    component: () => import('./pages/HowLongPage.vue'),
  },
  {
    path: '/places',
    name: 'Places',
    icon: mdiMapOutline,
    group: 'Answers',
    scoped: true,
    component: () => import('./pages/PlacesPage.vue'),
  },
  {
    path: '/open',
    name: 'Open',
    icon: mdiInboxOutline,
    group: 'Answers',
    scoped: true,
    component: () => import('./pages/OpenPage.vue'),
  },
  {
    path: '/statuses',
    name: 'Statuses',
    icon: mdiMapMarkerPath,
    group: 'Answers',
    scoped: true,
    component: () => import('./pages/StatusesPage.vue'),
  },
  {
    path: '/immediate',
    name: 'Immediate',
    icon: mdiFlashOutline,
    group: 'Answers',
    scoped: true,
    component: () => import('./pages/ImmediatePage.vue'),
  },
  {
    path: '/compare',
    name: 'Compare',
    icon: mdiCalendarMultiselectOutline,
    group: 'Answers',
    scoped: true,
    component: () => import('./pages/ComparePage.vue'),
  },
  {
    path: '/crosstab',
    name: 'Cross-tab',
    icon: mdiTable,
    group: 'Answers',
    scoped: true,
    component: () => import('./pages/CrosstabPage.vue'),
  },
  {
    path: '/due',
    name: 'Due',
    icon: mdiTimerSandEmpty,
    group: 'Answers',
    component: () => import('./pages/DuePage.vue'),
  },
  {
    path: '/forecast',
    name: 'Forecasts',
    icon: mdiTimelineClockOutline,
    group: 'Answers',
    scoped: true,
    component: () => import('./pages/ForecastPage.vue'),
  },
  {
    path: '/check',
    name: 'Check',
    icon: mdiCheckAll,
    group: 'Saved',
    component: () => import('./pages/CheckPage.vue'),
  },
  {
    path: '/views',
    name: 'Views',
    icon: mdiBookmarkOutline,
    group: 'Saved',
    component: () => import('./pages/ViewsPage.vue'),
  },
]
