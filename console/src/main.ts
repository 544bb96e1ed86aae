import { QueryClient, VueQueryPlugin } from '@tanstack/vue-query'
import { createPinia } from 'pinia'
import { createApp } from 'vue'
import { ProblemError } from './api/client'
import App from './App.vue'
import { router } from './router'
import './styles'

const queries = new QueryClient({
  defaultOptions: {
    queries: {
      staleTime: 5_000,
      // What the service refused it refuses again; only a service that cannot be reached is asked again.
      retry: (count, error) => !(error instanceof ProblemError) && count < 2,
    },
  },
})

createApp(App).use(createPinia()).use(router).use(VueQueryPlugin, { queryClient: queries }).mount('#app')
