import { defineStore } from 'pinia'
import { ref, watch } from 'vue'

const key = 'sparecrate.taste'

/**
 * How a person likes to look at type: words, size, scheme, and whether samples stand on the other ground. Kept in
 * the browser.
 */
export const useTaste = defineStore('taste', () => {
  const kept = JSON.parse(localStorage.getItem(key) ?? '{}') as {
    words?: string
    size?: number
    dark?: boolean
    reversed?: boolean
    view?: 'list' | 'grid' | 'specimen'
  }
  const words = ref(kept.words ?? '')
  const size = ref(kept.size ?? 40)
  const dark = ref(kept.dark ?? matchMedia('(prefers-color-scheme: dark)').matches)
  const reversed = ref(kept.reversed ?? false)
  const view = ref(kept.view ?? 'list')
  watch(
    [words, size, dark, reversed, view],
    () => {
      localStorage.setItem(
        key,
        JSON.stringify({
          words: words.value,
          size: size.value,
          dark: dark.value,
          reversed: reversed.value,
          view: view.value,
        }),
      )
      document.documentElement.classList.toggle('dark', dark.value)
    },
    { immediate: true },
  )
  return { words, size, dark, reversed, view }
})
