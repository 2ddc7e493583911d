import '@fontsource-variable/inter'
import './style.css'
import { createApp } from 'vue'
import { enter } from './api/session'
import App from './App.vue'
import router from './router'
import { themeSheet } from './themeSheet'
import vuetify from './vuetify'

void enter().then(() => {
  const app = createApp(App)
  app.provide('usehead', themeSheet()) // before Vuetify looks for it
  app.use(router).use(vuetify).mount('#app')
})
