import 'vuetify/styles'
import { createVuetify } from 'vuetify'
import { aliases, mdi } from 'vuetify/iconsets/mdi-svg'
import { dark, light, vuetifyColors } from './theme'

/** The theme that was chosen, else that of the system. */
function startTheme(): 'light' | 'dark' {
  const chosen = localStorage.getItem('theme')
  if (chosen === 'light' || chosen === 'dark') return chosen
  return matchMedia('(prefers-color-scheme: dark)').matches ? 'dark' : 'light'
}

export default createVuetify({
  icons: { defaultSet: 'mdi', aliases, sets: { mdi } },
  theme: {
    defaultTheme: startTheme(),
    themes: {
      light: { dark: false, colors: vuetifyColors(light) },
      dark: { dark: true, colors: vuetifyColors(dark) },
    },
  },
})
