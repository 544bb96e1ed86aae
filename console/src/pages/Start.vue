<script setup lang="ts">
import { CircleCheckFilled } from '@element-plus/icons-vue'
import { useQueryClient } from '@tanstack/vue-query'
import { ElButton, ElIcon, ElInput, ElOption, ElSelect } from 'element-plus'
import { computed, ref } from 'vue'
import { useRouter } from 'vue-router'
import { LicenseForm, SiteForm } from '../components/forms'
import { api, data, type Schemas } from '../api/client'
import { change, clients } from '../api/queries'
import StudioName from '../components/access/StudioName.vue'
import DropZone from '../components/imports/DropZone.vue'
import { useTrouble } from '../composables/form'
import { usePerson } from '../composables/person'
import { renew } from '../composables/renew'
import { origins } from '../composables/show'
import { useFirstSteps } from '../composables/start'
import { titleOf, uploadAll } from '../composables/uploads'

/** The first pass of a new studio: a client, fonts, a license, a site and its pack, each step on this page. */
const router = useRouter()
const queries = useQueryClient()
const { steps, done, client, family, site, ownOnly } = useFirstSteps()
const { data: known } = clients()
const person = usePerson()
/** What a studio is called that was not named at the first start. */
const unnamed = 'Our studio'
const studio = computed(() => known.value?.items.find((c) => c.studio)?.name ?? '')
const at = computed(() => steps.value.find((s) => !s.done)?.key)
const is = (key: string) => steps.value.find((s) => s.key === key)!

const name = ref('')
const naming = useTrouble()
const add = change(
  () => data(api.POST('/clients', { body: { name: name.value.trim() } })),
  ['clients'],
  () => (name.value = ''),
  true,
)
const origin = ref<Schemas['Origin']>('client')
const dropping = useTrouble()
async function take(files: { file: File; path: string }[]) {
  await dropping.guard(async () => {
    const body = { title: titleOf(files), client: client.value?.name ?? studio.value, origin: origin.value }
    const d = await data(api.POST('/imports', { body }))
    void uploadAll(d.id, files).then(() => renew(queries, ['imports']))
    await router.push(`/imports/${d.id}`)
  })
}
const recording = ref(false)
const adding = ref(false)
const put = change(
  () =>
    data(
      api.PUT('/sites/{id}/families/{familyId}', {
        params: { path: { id: site.value!.id, familyId: family.value!.id } },
        body: {},
      }),
    ),
  ['sites', 'families'],
)
</script>

<template>
  <div class="page">
    <div class="head">
      <div>
        <h1>Get started</h1>
        <p class="soft">
          Five steps lead from a folder of fonts to a pack that can be uploaded. You can leave at any step and come
          back.
        </p>
      </div>
      <span class="soft">{{ done }} of 5 done</span>
    </div>
    <details v-if="person?.role === 'admin'" class="sheet studio" :open="studio === unnamed">
      <summary>The studio: {{ studio }}</summary>
      <StudioName />
    </details>
    <ol class="steps">
      <li :class="{ here: at === 'client', done: is('client').done }">
        <h2>
          <ElIcon v-if="is('client').done" title="Done"><CircleCheckFilled /></ElIcon>1. Add a client
        </h2>
        <p v-if="client" class="soft">
          <RouterLink :to="`/clients/${client.id}`">{{ client.name }}</RouterLink> is added.
        </p>
        <template v-else>
          <p class="soft">Licenses and sites belong to clients. The studio's own fonts stay with {{ studio }}.</p>
          <form class="row" @submit.prevent="naming.guard(() => add.mutateAsync(undefined))">
            <ElInput
              v-model="name"
              class="name"
              placeholder="Holmvik Ferries"
              aria-label="Client name"
              maxlength="120"
            />
            <ElButton type="primary" native-type="submit" :disabled="!name.trim()">Add client</ElButton>
            <ElButton v-if="!ownOnly" link type="primary" @click="ownOnly = true"
              >No clients, only our own fonts</ElButton
            >
          </form>
          <p v-if="naming.text.value" role="alert" class="alarm">{{ naming.text.value }}</p>
        </template>
      </li>
      <li :class="{ here: at === 'fonts', done: is('fonts').done }">
        <h2>
          <ElIcon v-if="is('fonts').done" title="Done"><CircleCheckFilled /></ElIcon>2. Import fonts
        </h2>
        <p v-if="family" class="soft">
          <RouterLink :to="`/families/${family.id}`">{{ family.name }}</RouterLink> is in the catalog.
          <RouterLink to="/imports">Import more</RouterLink>
        </p>
        <template v-else-if="at === 'fonts'">
          <p class="soft">
            Drop font files, a folder or a zip, with license texts and orders if you have them. You review everything
            before it enters the catalog.
          </p>
          <label class="row"
            ><span>Origin</span
            ><ElSelect v-model="origin" aria-label="Origin" class="origin"
              ><ElOption v-for="o in origins" :key="o.value" :value="o.value" :label="o.label" /></ElSelect
          ></label>
          <DropZone @files="take" />
          <p v-if="dropping.text.value" role="alert" class="alarm">{{ dropping.text.value }}</p>
        </template>
      </li>
      <li :class="{ here: at === 'license', done: is('license').done }">
        <h2>
          <ElIcon v-if="is('license').done" title="Done"><CircleCheckFilled /></ElIcon>3. Record a license
        </h2>
        <p v-if="is('license').done" class="soft"><RouterLink to="/licenses">Licenses</RouterLink> are recorded.</p>
        <template v-else-if="at === 'license'">
          <p class="soft">
            A license decides whether a font may be used. Attach the order or the license text; the form reads the terms
            from it.
          </p>
          <ElButton type="primary" @click="recording = true">Record a license</ElButton>
        </template>
      </li>
      <li :class="{ here: at === 'site', done: is('site').done }">
        <h2>
          <ElIcon v-if="is('site').done" title="Done"><CircleCheckFilled /></ElIcon>4. Add a site
        </h2>
        <p v-if="is('site').done" class="soft">
          <RouterLink :to="`/sites/${site!.id}`">{{ site!.name }}</RouterLink> has fonts.
        </p>
        <template v-else-if="at === 'site'">
          <p class="soft">A site has a builder: the rules of the platform that the fonts are for.</p>
          <ElButton v-if="!site" type="primary" @click="adding = true">Add a site</ElButton>
          <ElButton v-else-if="family" type="primary" :loading="put.isPending.value" @click="put.mutate(undefined)"
            >Add {{ family.name }} to {{ site.name }}</ElButton
          >
        </template>
      </li>
      <li :class="{ here: at === 'pack', done: is('pack').done }">
        <h2>
          <ElIcon v-if="is('pack').done" title="Done"><CircleCheckFilled /></ElIcon>5. Build the pack
        </h2>
        <p v-if="is('pack').done" class="soft">The first pack is built. <RouterLink to="/">Go to Home</RouterLink></p>
        <template v-else-if="at === 'pack' && site">
          <p class="soft">
            <RouterLink :to="`/sites/${site.id}/roles`">Choose fonts for headings and text</RouterLink>, then plan and
            build the pack.
          </p>
          <RouterLink :to="`/sites/${site.id}/pack`">Plan the pack of {{ site.name }}</RouterLink>
        </template>
      </li>
    </ol>
    <LicenseForm v-model="recording" :families="family ? [family] : []" :client="client?.id" />
    <SiteForm v-model="adding" />
  </div>
</template>

<style scoped>
.studio {
  margin-bottom: 1rem;
}
.studio summary {
  cursor: pointer;
}
.steps {
  list-style: none;
  margin: 0;
  padding: 0;
  display: grid;
  gap: 0.8rem;
}
.steps > li {
  background: var(--sheet);
  border: 1px solid var(--rule);
  padding: 0.8rem 1.1rem;
}
.steps .here {
  border-left: 4px solid var(--sea);
}
h2 {
  display: flex;
  align-items: center;
  gap: 0.5rem;
  margin: 0;
  font-size: 1.05rem;
}
.done h2 {
  color: var(--good);
}
p {
  margin: 0.4rem 0;
}
.name {
  width: min(20rem, 100%);
}
.origin {
  width: 14rem;
}
.alarm {
  color: var(--bad);
}
</style>
