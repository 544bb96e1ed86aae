import { ElMessage } from 'element-plus'
import { ref } from 'vue'
import { message } from '../api/client'
import { change } from '../api/queries'
import { some } from './show'

/**
 * Does something with each of several things, one after the other. Where one fails the others are done all the same,
 * and what failed is said in the end, by name. done counts along.
 */
export function useMany<Thing>(named: (thing: Thing) => string, noun: string, touched: string[]) {
  const done = ref(0)
  const each = change(async ({ things, act }: { things: Thing[]; act: (thing: Thing) => Promise<unknown> }) => {
    const failed: string[] = []
    for (done.value = 0; done.value < things.length; done.value++) {
      const thing = things[done.value]!
      try {
        await act(thing)
      } catch (e) {
        failed.push(`${named(thing)}: ${message(e)}`)
      }
    }
    return failed
  }, touched)
  /** True where all were done; what failed is said here, what was done by who asked. */
  async function run(things: Thing[], act: (thing: Thing) => Promise<unknown>) {
    const failed = await each.mutateAsync({ things, act })
    if (failed.length)
      ElMessage({
        type: 'warning',
        message: [`Done for ${some(things.length - failed.length, noun)}.`, ...failed].join(' '),
        duration: 15000,
        showClose: true,
      })
    return !failed.length
  }
  return { run, done, busy: each.isPending }
}
