import { keepPreviousData, useInfiniteQuery, useMutation, useQuery, useQueryClient } from '@tanstack/vue-query'
import { ElMessage } from 'element-plus'
import { computed, ref, type Ref } from 'vue'
import { toAddress, type Filters } from '../composables/search'
import { renew } from '../composables/renew'
import { uses } from '../composables/show'
import { watching } from '../composables/watching'
import { api, data, message, type Schemas } from './client'
import type { operations } from './schema'

/** Server state, under one key a kind of thing. Whoever changes something says which kinds it touched. */
export const me = () =>
  useQuery({ queryKey: ['session'], queryFn: () => data(api.GET('/session')), retry: false, staleTime: 60_000 })
export const clients = () => useQuery({ queryKey: ['clients'], queryFn: () => data(api.GET('/clients')) })
export const builders = () => useQuery({ queryKey: ['builders'], queryFn: () => data(api.GET('/builders')) })
export const builder = (kind: Ref<string>) =>
  useQuery({
    queryKey: ['builders', kind],
    queryFn: () => data(api.GET('/builders/{kind}', { params: { path: { kind: kind.value } } })),
  })
export const builderVersions = (kind: Ref<string>, enabled: Ref<boolean>) =>
  useQuery({
    queryKey: ['builders', kind, 'versions'],
    enabled,
    queryFn: async () =>
      (await data(api.GET('/builders/{kind}/versions', { params: { path: { kind: kind.value } } }))).items,
  })

export const languages = () =>
  useQuery({ queryKey: ['languages'], queryFn: () => data(api.GET('/languages')), staleTime: Infinity })

export const characterSets = () =>
  useQuery({ queryKey: ['character-sets'], queryFn: () => data(api.GET('/character-sets')), staleTime: Infinity })
export const fallback = (id: Ref<number>, place: number, groups: Ref<number>) =>
  useQuery({
    queryKey: ['fallback', id, place, groups],
    queryFn: () =>
      data(
        api.GET('/files/{id}/fallback', {
          params: {
            path: { id: id.value },
            query: { place, against: 'arial,georgia,times-new-roman', groups: groups.value },
          },
        }),
      ),
    staleTime: Infinity,
    placeholderData: keepPreviousData,
  })

const asked = (f: Filters) => toAddress(f) as NonNullable<operations['listFamilies']['parameters']['query']>
/**
 * Families that are searched for, a page after the other; how many there are is asked apart, so that the first
 * page need not wait for it.
 */
export const families = (filters: Ref<Filters>) =>
  useInfiniteQuery({
    queryKey: ['families', 'list', filters],
    queryFn: ({ pageParam, signal }) =>
      data(
        api.GET('/families', {
          params: { query: { ...asked(filters.value), cursor: pageParam, limit: 40, total: false } },
          signal,
        }),
      ),
    initialPageParam: '',
    getNextPageParam: (last) => last.next,
    placeholderData: (before) => before,
  })
export const familyCount = (filters: Ref<Filters>) =>
  useQuery({
    queryKey: ['families', 'count', filters],
    queryFn: async ({ signal }) =>
      (await data(api.GET('/families', { params: { query: { ...asked(filters.value), limit: 1 } }, signal }))).total,
    placeholderData: keepPreviousData,
  })
/** How many families each choice of a filter would find beside the other filters. */
export const familyChoicesOf = (filters: Ref<Filters>) =>
  useQuery({
    queryKey: ['families', 'counts', filters],
    queryFn: async ({ signal }) =>
      (
        await data(
          api.GET('/families', {
            params: { query: { ...asked(filters.value), limit: 1, total: false, choices: true } },
            signal,
          }),
        )
      ).choices,
    placeholderData: keepPreviousData,
  })
/** Families that look like one, or that go together with it. */
export const familyMatches = (id: Ref<number>, of: 'similar' | 'pairings') =>
  useQuery({
    queryKey: ['families', of, id],
    queryFn: () =>
      of === 'similar'
        ? data(api.GET('/families/{id}/similar', one(id)))
        : data(api.GET('/families/{id}/pairings', one(id))),
  })
export const searchWords = () =>
  useQuery({ queryKey: ['families', 'words'], queryFn: () => data(api.GET('/search-words')) })
export const searches = () => useQuery({ queryKey: ['searches'], queryFn: () => data(api.GET('/searches')) })

/** Families to choose from, those that match what was typed, the first fifty. */
export const familyChoices = (typed: Ref<string>, client: Ref<string> = ref('')) =>
  useQuery({
    queryKey: ['families', 'choices', typed, client],
    queryFn: async ({ signal }) =>
      (
        await data(
          api.GET('/families', {
            params: { query: { q: typed.value, client: client.value, limit: 50, total: false } },
            signal,
          }),
        )
      ).items,
    placeholderData: keepPreviousData,
  })
/** Every shortlist of a client, of all without one. */
export const shortlists = (client: Ref<string>) =>
  useQuery({
    queryKey: ['shortlists', 'list', client],
    queryFn: async () => {
      const all = []
      let cursor: string | undefined
      do {
        const page = await data(
          api.GET('/shortlists', { params: { query: { client: client.value, cursor, limit: 200 } } }),
        )
        all.push(...page.items)
        cursor = page.next
      } while (cursor)
      return all
    },
  })
export const shortlist = (id: Ref<number>) =>
  useQuery({ queryKey: ['shortlists', id], queryFn: () => data(api.GET('/shortlists/{id}', one(id))) })

const one = (id: Ref<number>) => ({ params: { path: { id: id.value } } })
/** The service says when these change; should its stream not come through, they are asked for now and then. */
const nowAndThen = 10_000
/** Reads characters of a face that match what was typed, from a place in their list on. */
export function useCharacters(id: number, place: number) {
  const client = useQueryClient()
  return (q: string, set: string, skip: number, limit: number) =>
    client.fetchQuery({
      queryKey: ['characters', id, place, q, set, skip, limit],
      staleTime: Infinity,
      queryFn: () =>
        data(
          api.GET('/files/{id}/characters', {
            params: { path: { id }, query: { place, q: q || undefined, set: set || undefined, skip, limit } },
          }),
        ),
    })
}
/** How much a face has of blocks, scripts and languages. */
export const faceCoverage = (id: number, place: number) =>
  useQuery({
    queryKey: ['characters', id, place, 'coverage'],
    staleTime: Infinity,
    queryFn: () => data(api.GET('/files/{id}/coverage', { params: { path: { id }, query: { place } } })),
  })
/** The letters of a language that a face does not have; set is like language:pl, empty for none. */
export const missingLetters = (id: number, place: number, set: Ref<string>) =>
  useQuery({
    queryKey: ['characters', id, place, 'missing', set],
    enabled: computed(() => !!set.value),
    staleTime: Infinity,
    queryFn: () =>
      data(
        api.GET('/files/{id}/characters', {
          params: { path: { id }, query: { place, set: set.value, missing: true, limit: 200 } },
        }),
      ),
  })
/** What a file of a face changed since another. */
export const versionChanges = (face: number, from: Ref<number>, to: Ref<number>, enabled: Ref<boolean>) =>
  useQuery({
    queryKey: ['changes', face, from, to],
    enabled,
    staleTime: Infinity,
    queryFn: () =>
      data(
        api.GET('/faces/{id}/changes', { params: { path: { id: face }, query: { from: from.value, to: to.value } } }),
      ),
  })
/** A family; read again while formats of it are on their way. */
export const familyQuery = (id: number) => ({
  queryKey: ['families', id],
  queryFn: () => data(api.GET('/families/{id}', { params: { path: { id } } })),
})
export const family = (id: Ref<number>) => {
  const making = (f?: Schemas['Family']) =>
    f?.faces.some((face) => face.formats.some((m) => m.state === 'waiting' || m.state === 'running'))
  const query = useQuery({
    queryKey: ['families', id],
    queryFn: () => data(api.GET('/families/{id}', one(id))),
    refetchInterval: (q) => (making(q.state.data) ? nowAndThen : false),
  })
  watching(
    () => (making(query.data.value) ? 'jobs' : undefined),
    () => ['families', id.value],
  )
  return query
}
/** What the service does in the background. */
export const jobs = () => {
  watching(
    () => 'jobs',
    () => ['jobs'],
  )
  return useQuery({
    queryKey: ['jobs'],
    queryFn: () => data(api.GET('/jobs', { params: { query: { limit: 50 } } })),
    refetchInterval: nowAndThen,
  })
}
export const site = (id: Ref<number>) =>
  useQuery({ queryKey: ['sites', id], queryFn: () => data(api.GET('/sites/{id}', one(id))) })
const within = (id: Ref<number>, environment: Ref<string>) => ({
  params: { path: { id: id.value }, query: { environment: environment.value || undefined } },
})
export const plan = (id: Ref<number>, environment: Ref<string>) =>
  useQuery({
    queryKey: ['sites', id, 'plan', environment],
    placeholderData: keepPreviousData,
    queryFn: () => data(api.GET('/sites/{id}/plan', within(id, environment))),
    // Files that are being made have no size yet.
    refetchInterval: (q) => (q.state.data?.pending || q.state.data?.faces.some((f) => f.measuring) ? 1000 : false),
  })
/** How large the files of a family on a site would be by a recipe. */
export const sizes = (site: Ref<number>, family: Ref<number | undefined>, recipe: Ref<Schemas['Recipe']>) =>
  useQuery({
    queryKey: ['sites', site, 'sizes', family, recipe],
    enabled: computed(() => !!family.value),
    retry: false,
    queryFn: () =>
      data(
        api.POST('/sites/{id}/families/{familyId}/sizes', {
          params: { path: { id: site.value, familyId: family.value! } },
          body: { recipe: recipe.value },
        }),
      ),
    refetchInterval: (q) => (q.state.data?.pending ? 1000 : false),
  })
export const urls = (id: Ref<number>, environment: Ref<string>) =>
  useQuery({
    queryKey: ['sites', id, 'urls', environment],
    queryFn: () => data(api.GET('/sites/{id}/file-urls', within(id, environment))),
  })
export const sitePages = (id: Ref<number>) =>
  useQuery({ queryKey: ['sites', id, 'pages'], queryFn: () => data(api.GET('/sites/{id}/pages', one(id))) })
/** The sites that a guest sees, each with its packs. */
export const guestSites = () =>
  useQuery({
    queryKey: ['sites', 'guest'],
    queryFn: async () => {
      const { items } = await data(api.GET('/sites', { params: { query: { limit: 200 } } }))
      return Promise.all(
        items.map(async (site) => ({
          site,
          packs: (await data(api.GET('/sites/{id}/packs', { params: { path: { id: site.id } } }))).items,
        })),
      )
    },
  })
export const packs = (id: Ref<number>) =>
  useQuery({
    queryKey: ['sites', id, 'packs'],
    enabled: () => id.value > 0,
    queryFn: () => data(api.GET('/sites/{id}/packs', one(id))),
  })

const paged = { initialPageParam: '', getNextPageParam: (last: { next?: string }) => last.next }
export const licenses = (client: Ref<number | undefined> = ref()) =>
  useInfiniteQuery({
    queryKey: ['licenses', 'list', client],
    queryFn: ({ pageParam }) =>
      data(api.GET('/licenses', { params: { query: { client: client.value, cursor: pageParam } } })),
    ...paged,
  })
export const templates = () => useQuery({ queryKey: ['templates'], queryFn: () => data(api.GET('/license-templates')) })
export const proposals = (id: Ref<number>) =>
  useQuery({
    queryKey: ['families', id, 'proposals'],
    queryFn: () => data(api.GET('/families/{id}/proposals', one(id))),
  })
export const licenseVersions = (id: number, enabled: Ref<boolean>) =>
  useQuery({
    queryKey: ['licenses', id, 'versions'],
    enabled,
    queryFn: async () => (await data(api.GET('/licenses/{id}/versions', { params: { path: { id } } }))).items,
  })
export const ending = (id: number, enabled: Ref<boolean>) =>
  useQuery({
    queryKey: ['licenses', id, 'ending'],
    enabled,
    queryFn: () => data(api.GET('/licenses/{id}/ending', { params: { path: { id } } })),
  })
export const documents = (q: Ref<string>) =>
  useQuery({
    queryKey: ['documents', q],
    enabled: () => !!q.value.trim(),
    placeholderData: keepPreviousData,
    queryFn: async ({ signal }) =>
      (await data(api.GET('/documents', { params: { query: { q: q.value } }, signal }))).items,
  })
export const due = (
  within: Ref<number>,
  client: Ref<number | undefined>,
  snoozed: Ref<boolean> = ref(false),
  owner: Ref<string> = ref(''),
) =>
  useQuery({
    queryKey: ['due', within, client, snoozed, owner],
    placeholderData: keepPreviousData,
    // In large studios a newer list is being worked out.
    refetchInterval: (query) => (query.state.data?.asOf ? 5000 : false),
    queryFn: () =>
      data(
        api.GET('/due', {
          params: {
            query: {
              within: within.value,
              client: client.value,
              snoozed: snoozed.value || undefined,
              owner: owner.value || undefined,
            },
          },
        }),
      ),
  })
/** What a family may be used for by its client: the verdict for each use. */
export const verdictsByUse = (id: Ref<number>) =>
  useQuery({
    queryKey: ['families', id, 'verdicts'],
    queryFn: () =>
      Promise.all(
        uses.map((u) =>
          data(api.GET('/families/{id}/verdict', { params: { path: { id: id.value }, query: { use: u.value } } })),
        ),
      ),
  })
/** The people to whom what needs attention can be assigned; read when somebody wants to choose one. */
export const owners = (wanted: Ref<boolean>) =>
  useQuery({ queryKey: ['people', 'owners'], enabled: wanted, queryFn: () => data(api.GET('/due/owners')) })
export const register = (client: Ref<number | undefined>) =>
  useQuery({
    queryKey: ['register', client],
    placeholderData: keepPreviousData,
    queryFn: () => data(api.GET('/register', { params: { query: { client: client.value } } })),
  })
export const signOffs = () => useQuery({ queryKey: ['sign-offs'], queryFn: () => data(api.GET('/sign-offs')) })
export const feeds = () => useQuery({ queryKey: ['feeds'], queryFn: async () => (await data(api.GET('/feeds'))).items })
export const views = (id: Ref<number>) =>
  useQuery({ queryKey: ['sites', id, 'views'], queryFn: () => data(api.GET('/sites/{id}/views', one(id))) })
export const liveStylesheets = (id: Ref<number>) =>
  useQuery({
    queryKey: ['sites', id, 'live'],
    queryFn: async () => (await data(api.GET('/sites/{id}/live', one(id)))).items,
  })
/** An inspection under way is asked for again until it has ended. */
const untilEnded = (all: Schemas['Inspection'][] | undefined) =>
  all?.some((i) => i.state === 'waiting' || i.state === 'running') ? 2000 : false
export const inspections = (id: Ref<number>) =>
  useQuery({
    queryKey: ['inspections', 'of', id],
    queryFn: () => data(api.GET('/sites/{id}/inspections', one(id))),
    refetchInterval: (q) => untilEnded(q.state.data?.items),
  })
export const findings = (id: Ref<number>, state: Ref<Schemas['FindingState']>) =>
  useQuery({
    queryKey: ['inspections', 'findings', id, state],
    placeholderData: keepPreviousData,
    queryFn: async () =>
      (
        await data(
          api.GET('/sites/{id}/findings', { params: { path: { id: id.value }, query: { state: state.value } } }),
        )
      ).items,
  })
export const inspection = (id: Ref<number>) =>
  useQuery({
    queryKey: ['inspections', id],
    queryFn: () => data(api.GET('/inspections/{id}', one(id))),
    refetchInterval: (q) => untilEnded(q.state.data && [q.state.data.inspection]),
  })
export const inspectedPage = (id: Ref<number>, place: Ref<number>, enabled: Ref<boolean>) =>
  useQuery({
    queryKey: ['inspections', id, 'pages', place],
    enabled,
    placeholderData: keepPreviousData,
    queryFn: () =>
      data(api.GET('/inspections/{id}/pages/{place}', { params: { path: { id: id.value, place: place.value } } })),
  })
export const sites = (client: Ref<number | undefined> = ref()) =>
  useInfiniteQuery({
    queryKey: ['sites', 'list', client],
    queryFn: ({ pageParam }) =>
      data(api.GET('/sites', { params: { query: { client: client.value, cursor: pageParam } } })),
    ...paged,
  })
/** What activity is narrowed to: who, what, text, and days. */
export interface ActivityFilters {
  person?: string
  action?: string
  q?: string
  from?: string
  to?: string
  client?: number
}
export const activity = (filters: Ref<ActivityFilters> = ref({})) => {
  watching(
    () => 'activity',
    () => ['activity'],
  )
  return useInfiniteQuery({
    queryKey: ['activity', filters],
    placeholderData: keepPreviousData,
    queryFn: ({ pageParam }) =>
      data(api.GET('/activity', { params: { query: { ...filters.value, choices: !pageParam, cursor: pageParam } } })),
    ...paged,
  })
}
export const imports = () =>
  useInfiniteQuery({
    queryKey: ['imports', 'list'],
    queryFn: ({ pageParam }) => data(api.GET('/imports', { params: { query: { cursor: pageParam } } })),
    ...paged,
  })
/** An import; read again whenever something of it moves. */
export const fontImport = (id: Ref<number>) => {
  watching(
    () => `import/${id.value}`,
    () => ['imports', id.value],
  )
  return useQuery({
    queryKey: ['imports', id],
    queryFn: () => data(api.GET('/imports/{id}', one(id))),
    refetchInterval: (q) =>
      q.state.data && (q.state.data.unpacking > 0 || q.state.data.state === 'accepting') ? nowAndThen : false,
  })
}
/** The families of an import, a page after the other, from where its own first page ends. */
export const importFamilies = (id: Ref<number>, from: Ref<string | undefined>) =>
  useInfiniteQuery({
    queryKey: ['imports', id, 'families', from],
    enabled: computed(() => !!from.value),
    queryFn: ({ pageParam }) =>
      data(
        api.GET('/imports/{id}/families', {
          params: { path: { id: id.value }, query: { cursor: pageParam ?? from.value, limit: 200 } },
        }),
      ),
    ...paged,
    placeholderData: (before) => before,
  })
export const importTitle = (id: Ref<number>) =>
  useQuery({
    queryKey: ['imports', id, 'title'],
    enabled: computed(() => id.value > 0),
    queryFn: async () => (await data(api.GET('/imports/{id}', one(id)))).title,
  })
export const gaps = (filter: Ref<{ import?: number; client?: number; what?: Schemas['GapCode'][] }>) =>
  useInfiniteQuery({
    queryKey: ['gaps', filter],
    queryFn: ({ pageParam }) =>
      data(api.GET('/gaps', { params: { query: { ...filter.value, cursor: pageParam, limit: 200 } } })),
    ...paged,
    placeholderData: (before) => before,
  })
export const importItems = (id: Ref<number>) =>
  useInfiniteQuery({
    queryKey: ['imports', id, 'items'],
    queryFn: ({ pageParam }) =>
      data(
        api.GET('/imports/{id}/items', {
          params: { path: { id: id.value }, query: { cursor: pageParam, limit: 200 } },
        }),
      ),
    ...paged,
    placeholderData: (before) => before,
  })
export const everyonesTokens = (enabled: Ref<boolean>) =>
  useQuery({
    queryKey: ['tokens', 'everyone'],
    enabled,
    queryFn: () => data(api.GET('/tokens', { params: { query: { everyone: true } } })),
  })
export const tokens = () => useQuery({ queryKey: ['tokens'], queryFn: () => data(api.GET('/tokens')) })
export const people = (enabled: Ref<boolean>) =>
  useQuery({ queryKey: ['people'], queryFn: () => data(api.GET('/people')), enabled })

/** What the audit log is narrowed to. */
export interface AuditQuery {
  person?: string
  action?: string
  q?: string
}
export const auditLog = (query: Ref<AuditQuery>) =>
  useInfiniteQuery({
    queryKey: ['audit', query],
    queryFn: ({ pageParam }) => {
      const given = Object.fromEntries(Object.entries(query.value).filter(([, v]) => v))
      return data(api.GET('/audit', { params: { query: { ...given, choices: true, cursor: pageParam, limit: 100 } } }))
    },
    placeholderData: keepPreviousData,
    ...paged,
  })

/** What lets the person in beside the password. */
export const factors = () => useQuery({ queryKey: ['factors'], queryFn: () => data(api.GET('/session/factors')) })

export const sessions = (everyone: Ref<boolean>) =>
  useQuery({
    queryKey: ['sessions', everyone],
    placeholderData: keepPreviousData,
    queryFn: () => data(api.GET('/sessions', { params: { query: { everyone: everyone.value } } })),
  })
export const settings = () => useQuery({ queryKey: ['settings'], queryFn: () => data(api.GET('/settings')) })
/** The studio, and how much of everything it has. */
export const studio = () => useQuery({ queryKey: ['studio'], queryFn: () => data(api.GET('/studio')) })

let changes = 0
/** A change: runs, says what went wrong unless a form does, and has everything it touched read again. */
export function change<I, O>(
  run: (input: I) => Promise<O>,
  touched: string[],
  done?: (out: O) => void,
  inForm = false,
) {
  const client = useQueryClient()
  return useMutation({
    mutationFn: run,
    scope: { id: `change ${++changes}` }, // one after the other, each from what the one before left
    onSuccess: async (out) => {
      done?.(out)
      await Promise.all(
        [...touched, 'activity', 'due', 'register', 'sign-offs', 'studio'].map((k) => renew(client, [k])),
      )
    },
    onError: (e) => inForm || ElMessage({ type: 'error', message: message(e), duration: 8000, showClose: true }),
  })
}
