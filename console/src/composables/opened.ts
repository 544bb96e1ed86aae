import { watch, type Ref } from 'vue'
import { useRoute, useRouter } from 'vue-router'

/** Opens a form where the page's URL asks for it with `?new`, and takes that out of the URL. */
export function openedByURL(open: Ref<boolean>) {
  const route = useRoute()
  const router = useRouter()
  watch(
    () => route.query.new,
    (asked) => {
      if (asked === undefined) return
      open.value = true
      void router.replace({ query: { ...route.query, new: undefined } })
    },
    { immediate: true },
  )
}
