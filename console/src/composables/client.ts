import { defineStore } from 'pinia'
import { ref, watch } from 'vue'

const key = 'sparecrate.client'

/** The client that the whole console is narrowed to; undefined for all. Kept in the browser. */
export const useClientStore = defineStore('client', () => {
  const id = ref<number | undefined>(Number(localStorage.getItem(key)) || undefined)
  watch(id, (now) => (now ? localStorage.setItem(key, String(now)) : localStorage.removeItem(key)))
  return { id }
})

/** The same as a ref. */
export function useClient() {
  const store = useClientStore()
  const id = ref(store.id)
  watch(
    () => store.id,
    (now) => (id.value = now),
  )
  return { id, store }
}
