import { ref } from 'vue'
import { message, ProblemError } from '../api/client'

/** Enter in a list chooses from it and sends no form. */
export function choosing(e: KeyboardEvent) {
  if ((e.target as HTMLElement).closest('.el-select')) e.preventDefault()
}

/** What went wrong with a form: a sentence, and the field it is about where the service named one. */
export function useTrouble() {
  const text = ref('')
  const field = ref('')
  const clear = () => (text.value = field.value = '')
  return {
    text,
    field,
    clear,
    /** The sentence where it belongs to this field. */
    at: (name: string) => (field.value === name ? text.value : ''),
    async guard(run: () => Promise<unknown>) {
      clear()
      try {
        await run()
      } catch (e) {
        text.value = message(e)
        field.value = e instanceof ProblemError ? (e.problem.field ?? '') : ''
      }
    },
  }
}
