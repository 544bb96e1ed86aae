import { ref, watch, type Ref } from 'vue'

/**
 * False until a page whose data has come has shown its heading, true from the next frame on: what takes long to
 * render does not keep the heading waiting.
 */
export function useRest(come: Ref<unknown>) {
  const rest = ref(false)
  watch(
    come,
    (now) => {
      if (now && !rest.value) requestAnimationFrame(() => setTimeout(() => (rest.value = true)))
    },
    { immediate: true },
  )
  return rest
}
