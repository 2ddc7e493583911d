import '@fontsource-variable/inter'
import './style.css'
import { createApp } from 'vue'
import { enter } from './api/session'
import App from './App.vue'
import router from './router'
import vuetify from './vuetify'

void enter().then(() => createApp(App).use(router).use(vuetify).mount('#app'))
