import 'vuetify/styles/core'
import { mdiFileDocumentOutline, mdiTrayArrowDown } from '@mdi/js'
import { createVuetify } from 'vuetify'
import { aliases, mdi } from 'vuetify/iconsets/mdi-svg'
import { dark, light, vuetifyColors } from './theme'

/** The theme that was chosen, else that of the system. */
function startTheme(): 'light' | 'dark' {
  const chosen = localStorage.getItem('theme')
  if (chosen === 'light' || chosen === 'dark') return chosen
  return matchMedia('(prefers-color-scheme: dark)').matches ? 'dark' : 'light'
}

/** Texts that step back stay readable, and nothing casts a shadow. */
const variables = {
  'high-emphasis-opacity': 1,
  'medium-emphasis-opacity': 0.88,
  'shadow-key-opacity': 0,
  'shadow-ambient-opacity': 0,
}

/** A select says once what it opens: the box that opens it is no second combobox. */
const quiet = {
  'aria-haspopup': undefined,
  'aria-expanded': undefined,
  'aria-controls': undefined,
  'aria-owns': undefined,
}

const field = { variant: 'outlined', density: 'compact', hideDetails: 'auto' } as const

export default createVuetify({
  icons: { defaultSet: 'mdi', aliases: { ...aliases, upload: mdiTrayArrowDown }, sets: { mdi } },
  theme: {
    defaultTheme: startTheme(),
    variations: false,
    themes: {
      light: { dark: false, colors: vuetifyColors(light), variables },
      dark: { dark: true, colors: vuetifyColors(dark), variables },
    },
  },
  defaults: {
    global: { ripple: false },
    VBtn: { variant: 'flat' },
    VTextField: field,
    VSelect: { ...field, menuProps: { activatorProps: quiet } },
    VExpansionPanels: { elevation: 0 },
    VFileUploadItem: { fileIcon: mdiFileDocumentOutline },
  },
})
