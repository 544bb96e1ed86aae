import { watch, type Ref } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { usePerson } from './person'

/** Opens a form where the page's URL asks for it with `?new`, for who may fill it in, and takes that out of the URL. */
export function openedByURL(open: Ref<boolean>) {
  const person = usePerson()
  const route = useRoute()
  const router = useRouter()
  watch(
    () => route.query.new,
    (asked) => {
      if (asked === undefined) return
      open.value = !!person.value && person.value.role !== 'viewer'
      void router.replace({ query: { ...route.query, new: undefined } })
    },
    { immediate: true },
  )
}
