import 'vuetify/styles'
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

const field = { variant: 'outlined', density: 'compact', hideDetails: 'auto' } as const

export default createVuetify({
  icons: { defaultSet: 'mdi', aliases: { ...aliases, upload: mdiTrayArrowDown }, sets: { mdi } },
  theme: {
    defaultTheme: startTheme(),
    themes: {
      light: { dark: false, colors: vuetifyColors(light), variables },
      dark: { dark: true, colors: vuetifyColors(dark), variables },
    },
  },
  defaults: {
    global: { ripple: false },
    VBtn: { variant: 'flat' },
    VTextField: field,
    VSelect: field,
    VFileUploadItem: { fileIcon: mdiFileDocumentOutline },
  },
})
