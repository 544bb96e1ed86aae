import { onBeforeUnmount, onMounted } from 'vue'

/** Listens to an event of the window while a component is there. */
export function useEventListener<K extends keyof WindowEventMap>(
  target: Window,
  event: K,
  heard: (e: WindowEventMap[K]) => void,
) {
  onMounted(() => target.addEventListener(event, heard))
  onBeforeUnmount(() => target.removeEventListener(event, heard))
}
