<script setup lang="ts">
import { ElCheckbox, ElRadioButton, ElRadioGroup } from 'element-plus'
import { computed, reactive, ref } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { LicenseForm, RenewForm, SignOffForm } from '../components/forms'
import { api, data, type Schemas } from '../api/client'
import { activity, due, studio } from '../api/queries'
import FeedSettings from '../components/home/FeedSettings.vue'
import TaskBulk from '../components/home/TaskBulk.vue'
import TaskLine from '../components/home/TaskLine.vue'
import Trouble from '../components/shared/Trouble.vue'
import { useClient } from '../composables/client'
import { grouped } from '../composables/home'
import { usePerson } from '../composables/person'
import TimeAgo from '../components/shared/TimeAgo.vue'
import { some } from '../composables/show'

const ahead = [30, 60, 90]
const owned = [
  { value: '', label: 'All' },
  { value: 'me', label: 'Mine' },
  { value: 'none', label: 'Unassigned' },
]

/** What needs attention, grouped by what one does about it, and what was done this week. */
const person = usePerson()
const mayEdit = computed(() => person.value?.role !== 'viewer')
/** A studio without a pack is led through its first steps. */
const { data: counts } = studio()
const starting = computed(() => mayEdit.value && counts.value && !(counts.value.sites && counts.value.families))
const first = computed(() => {
  const c = counts.value
  return c ? [c.clients, c.families, c.licenses, c.sites, c.packs].filter(Boolean).length : 0
})
// The choices stand in the page's URL.
const route = useRoute()
const router = useRouter()
const inURL = (key: string, value: string | undefined) =>
  void router.replace({ query: { ...route.query, [key]: value || undefined } })
const within = computed({
  get: () => ahead.find((d) => String(d) === route.query.within) ?? 90,
  set: (days) => inURL('within', days === 90 ? undefined : String(days)),
})
const snoozed = computed({
  get: () => route.query.snoozed === 'true',
  set: (on) => inURL('snoozed', on ? 'true' : undefined),
})
const owner = computed({
  get: () => owned.find((o) => o.value === route.query.owner)?.value ?? '',
  set: (who) => inURL('owner', who),
})
const { id: client } = useClient()
const { data: list, error, isPending } = due(within, client, snoozed, owner)
const groups = computed(() => grouped(list.value?.items ?? []))
const selected = reactive(new Set<string>())
const chosen = computed(() => list.value?.items.filter((i) => selected.has(i.key)) ?? [])
const { data: log } = activity(computed(() => (client.value ? { client: client.value } : {})))
const week = 7 * 864e5
const done = computed(() => {
  const all = log.value?.pages.flatMap((p) => p.items) ?? []
  return all.filter((a) => Date.now() - Date.parse(a.at) < week).slice(0, 12)
})

const renewing = ref<Schemas['License']>()
const renewOpen = ref(false)
async function renew(id: number) {
  renewing.value = await data(api.GET('/licenses/{id}', { params: { path: { id } } }))
  renewOpen.value = true
}
const recording = ref(false)
const recorded = ref<{ families: Schemas['Ref'][]; client?: number }>({ families: [] })
function record(families: Schemas['Ref'][], of?: number) {
  recorded.value = { families, client: of }
  recording.value = true
}
const signing = ref<Schemas['Ref']>()
const signSite = ref(0)
function sign(site: number, family: Schemas['Ref']) {
  signSite.value = site
  signing.value = family
}
</script>

<template>
  <div class="page">
    <div class="head">
      <h1>Needs attention</h1>
      <div class="row">
        <ElCheckbox v-if="list?.snoozed || snoozed" v-model="snoozed" :label="`Show snoozed (${list?.snoozed ?? 0})`" />
        <ElRadioGroup v-model="owner" aria-label="Assigned to"
          ><ElRadioButton v-for="o in owned" :key="o.value" :value="o.value">{{ o.label }}</ElRadioButton></ElRadioGroup
        >
        <ElRadioGroup v-model="within" aria-label="Days ahead"
          ><ElRadioButton v-for="d in ahead" :key="d" :value="d">{{ d }} days</ElRadioButton></ElRadioGroup
        >
      </div>
    </div>
    <section v-if="starting" class="sheet row start">
      <div>
        <strong>Get started</strong>
        <p class="soft small">
          Add a client, fonts, a license and a site, and build the first pack. {{ first }} of 5 done.
        </p>
      </div>
      <RouterLink class="el-button el-button--primary" to="/start">Continue</RouterLink>
    </section>
    <Trouble v-if="error" :error="error" />
    <p v-else-if="isPending" class="soft">Loading …</p>
    <template v-else-if="list">
      <p v-if="list.asOf" class="soft small">
        As of <TimeAgo :at="list.asOf" />. What has changed since is being worked out.
      </p>
      <p v-if="!list.items.length" class="sheet">
        {{ owner === 'me' ? 'Nothing that is assigned to you' : owner ? 'Nothing without an owner' : 'Nothing' }} needs
        attention in the next {{ list.within }} days.
      </p>
      <TaskBulk v-if="chosen.length" :items="chosen" @clear="selected.clear()" />
      <section v-for="g in groups" :key="g.title" class="group">
        <h2>
          {{ g.title }} <span class="soft small">{{ g.items.length }}</span>
        </h2>
        <ul class="list sheet flush">
          <TaskLine
            v-for="i in g.items"
            :key="i.key"
            :item="i"
            :may-edit="mayEdit"
            :selected="selected.has(i.key)"
            @select="(on: boolean) => (on ? selected.add(i.key) : selected.delete(i.key))"
            @renew="renew"
            @record="record"
            @sign="sign"
          />
        </ul>
      </section>
      <p v-if="list.total > list.items.length" class="soft">
        And {{ some(list.total - list.items.length, 'more item') }}: choose a client at the top, an owner or fewer days.
      </p>
      <section class="group" aria-label="This week">
        <h2>Done this week</h2>
        <p v-if="!done.length" class="soft">Nothing was done this week.</p>
        <ul class="list week small">
          <li v-for="a in done" :key="a.id">
            <TimeAgo class="soft" :at="a.at" />
            <span
              ><strong>{{ a.person }}</strong> {{ a.action }}: {{ a.subject }}</span
            >
          </li>
        </ul>
        <RouterLink v-if="done.length" class="small" to="/activity">All activity</RouterLink>
      </section>
      <FeedSettings />
    </template>
    <RenewForm v-if="renewing" :key="renewing.id" v-model="renewOpen" :license="renewing" />
    <LicenseForm v-model="recording" :families="recorded.families" :client="recorded.client" />
    <SignOffForm v-model="signing" :site="signSite" />
    <p class="unseen" aria-live="polite">{{ some(list?.items.length ?? 0, 'item') }}</p>
  </div>
</template>

<style scoped>
.start {
  justify-content: space-between;
  margin-bottom: 1rem;
}
.start p {
  margin: 0.2rem 0 0;
}
.group h2 {
  margin-top: 1.4rem;
}
.flush {
  padding: 0;
}
.week li {
  display: grid;
  grid-template-columns: 9rem minmax(0, 1fr);
  gap: 0.1rem 1rem;
  padding: 0.3rem 0;
}
@media (max-width: 40rem) {
  .week li {
    grid-template-columns: minmax(0, 1fr);
  }
}
</style>
