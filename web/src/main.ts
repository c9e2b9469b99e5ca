import '@fontsource-variable/atkinson-hyperlegible-next/wght.css'
import '@fontsource-variable/vollkorn/wght.css'
import './ant.css'
import './style.css'
import { VueQueryPlugin } from '@tanstack/vue-query'
import { createApp } from 'vue'
import App from './App.vue'
import { mendAria } from './parts/aria'
import { learnWords } from './parts/words'
import { router } from './router'

const app = createApp(App)
  .use(router)
  .use(VueQueryPlugin, {
    queryClientConfig: {
      defaultOptions: { queries: { staleTime: 20_000, retry: 1, refetchOnWindowFocus: true } },
    },
  })
// without an answer the page says itself what is wrong
void learnWords()
  .catch(() => undefined)
  .then(() => app.mount('#app'))
  .then(mendAria)
