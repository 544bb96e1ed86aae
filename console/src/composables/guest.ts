import { watch, type Ref } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import type { Schemas } from '../api/client'

/** The pages that are for guests too. */
const forGuests = (path: string) => path === '/guest' || path === '/settings' || /^\/sites\/\d+\/guide$/.test(path)

/** Keeps guests to the pages that are for them. */
export function useGuestPages(person: Ref<Schemas['Person'] | undefined>) {
  const route = useRoute()
  const router = useRouter()
  watch(
    [() => person.value?.role, () => route.fullPath, () => route.matched.length] as const,
    ([role]) => {
      const { path } = route
      // Before the first page is known, the path is no page's.
      if (role === 'guest' && route.matched.length && !forGuests(path)) void router.replace('/guest')
    },
    { immediate: true },
  )
}
