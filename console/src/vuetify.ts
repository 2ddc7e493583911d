import 'vuetify/styles/core'
import { mdiFileDocumentOutline, mdiTrayArrowDown } from '@mdi/js'
import { createVuetify } from 'vuetify'
import { StringDateAdapter } from 'vuetify/date/adapters/string'
import { aliases, mdi } from 'vuetify/iconsets/mdi-svg'
import { en } from 'vuetify/locale'
import { dark, light, vuetifyColors } from './theme'

/** The theme that was chosen, else that of the system, also when it changes. */
function startTheme(): 'light' | 'dark' | 'system' {
  const chosen = localStorage.getItem('theme')
  return chosen === 'light' || chosen === 'dark' ? chosen : 'system'
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
const list = { ...field, menuProps: { activatorProps: quiet } }

export default createVuetify({
  icons: { defaultSet: 'mdi', aliases: { ...aliases, upload: mdiTrayArrowDown }, sets: { mdi } },
  date: { adapter: StringDateAdapter },
  // The labels of these two would hide the month and the year that they show.
  locale: {
    locale: 'en',
    messages: {
      en: {
        ...en,
        datePicker: {
          ...en.datePicker,
          ariaLabel: { ...en.datePicker.ariaLabel, selectMonth: '', selectYear: '' },
        },
      },
    },
  },
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
    // Most buttons are words among others; what saves or asks says so with variant="flat".
    VBtn: { variant: 'text', color: 'primary', density: 'comfortable' },
    VTextField: field,
    VTextarea: field,
    VSelect: list,
    VAutocomplete: list,
    VCombobox: list,
    VCheckbox: { density: 'compact', hideDetails: true, color: 'primary' },
    VTooltip: { eager: false },
    VMenu: { transition: false },
    VExpansionPanels: { elevation: 0 },
    VFileUploadItem: { fileIcon: mdiFileDocumentOutline },
    VTabs: { density: 'compact', color: 'secondary' },
  },
})
