import { computed, ref, watch } from 'vue'
import { clients, families, licenses, packs, sites, studio } from '../api/queries'
import { fromAddress } from './search'
import { watching } from './watching'

const key = 'sparecrate.own-fonts'

/** What a new studio does first, in order, with what is done already. */
export function useFirstSteps() {
  // What others do meanwhile, or imports in the background, counts at once.
  for (const what of ['families', 'licenses', 'sites'])
    watching(
      () => 'activity',
      () => [what],
    )
  const { data: known } = clients()
  const { data: found } = families(ref(fromAddress({})))
  const { data: recorded } = licenses()
  const { data: all } = sites()
  const client = computed(() => known.value?.items.find((c) => !c.studio))
  const family = computed(() => found.value?.pages[0]?.items.find((f) => f.faces.length))
  const site = computed(() => all.value?.pages[0]?.items[0])
  const { data: counts } = studio()
  const { data: built } = packs(computed(() => site.value?.id ?? 0))
  /** A studio that has no clients skips the first step; kept in the browser. */
  const ownOnly = ref(localStorage.getItem(key) === 'yes')
  watch(ownOnly, (own) => localStorage.setItem(key, own ? 'yes' : 'no'))
  const steps = computed(() => [
    { key: 'client', done: !!client.value || ownOnly.value },
    { key: 'fonts', done: !!family.value },
    { key: 'license', done: !!recorded.value?.pages[0]?.items.length },
    { key: 'site', done: !!site.value?.families.length },
    { key: 'pack', done: !!built.value?.items.length || !!counts.value?.packs },
  ])
  const ready = computed(() => !!known.value && !!found.value && !!recorded.value && !!all.value)
  const done = computed(() => steps.value.filter((s) => s.done).length)
  return { steps, done, ready, client, family, site, ownOnly }
}
