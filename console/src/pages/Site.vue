<script setup lang="ts">
import { ElButton } from 'element-plus'
import { computed, ref, toRef } from 'vue'
import { SignOffForm } from '../components/forms'
import { api, data as dataOf, type Schemas } from '../api/client'
import { change, me, site } from '../api/queries'
import FamilyPicker from '../components/shared/FamilyPicker.vue'
import SiteSummary from '../components/site/SiteSummary.vue'
import SiteRecipe from '../components/site/SiteRecipe.vue'
import SiteLive from '../components/site/SiteLive.vue'
import SiteViews from '../components/site/SiteViews.vue'
import SiteHead from '../components/site/SiteHead.vue'
import Trouble from '../components/shared/Trouble.vue'
import VerdictTag from '../components/shared/VerdictTag.vue'
import TimeAgo from '../components/shared/TimeAgo.vue'
import { sure } from '../composables/ask'
import { place, placed } from '../composables/roles'
import { offerUndo } from '../composables/undo'

const props = defineProps<{ id: number }>()
const { data: s, error } = site(toRef(props, 'id'))
const { data: person } = me()
const mayEdit = computed(() => person.value?.role !== 'viewer')
/** Families of an outlet are its site's. */
const mayPlace = computed(() => mayEdit.value && !s.value?.outletOf)
const chosen = ref<number>()
const signing = ref<{ id: number; name: string }>()
const reshaping = ref<Schemas['SiteFamily']>()

const path = (familyId: number) => ({ params: { path: { id: props.id, familyId } } })
const use = change(
  (family: number) => dataOf(api.PUT('/sites/{id}/families/{familyId}', { ...path(family), body: {} })),
  ['sites', 'families'],
  () => (chosen.value = undefined),
)
const back = change(
  async (was: { site: Schemas['Site']; family: Schemas['SiteFamily'] }) => {
    const body = was.family.recipe ?? {}
    const fresh = await dataOf(api.PUT('/sites/{id}/families/{familyId}', { ...path(was.family.family.id), body }))
    // Roles that went with the family come back with it.
    if (fresh.roles.length < was.site.roles.length) await place(fresh, placed(was.site))
  },
  ['sites', 'families'],
)
const drop = change(
  async (family: Schemas['SiteFamily']) => {
    const site = s.value!
    await dataOf(api.DELETE('/sites/{id}/families/{familyId}', path(family.family.id)))
    offerUndo(`${family.family.name} removed from ${site.name}.`, () => back.mutate({ site, family }))
  },
  ['sites', 'families'],
)
const revoke = change((id: number) => dataOf(api.DELETE('/sign-offs/{id}', { params: { path: { id } } })), ['sites'])
async function askRevoke(u: Schemas['SiteFamily']) {
  const says = `${u.family.name} gets into no pack of this site until it is cleared or signed off again.`
  if (u.signOff && (await sure('Revoke this sign-off?', says, 'Revoke'))) revoke.mutate(u.signOff.id)
}
const maySign = (verdict: string) =>
  verdict === 'review' ? mayEdit.value : verdict === 'blocked' && person.value?.role === 'admin'
</script>

<template>
  <div class="page">
    <Trouble v-if="error" :error="error" />
    <template v-else-if="s">
      <SiteHead :site="s" />
      <SiteSummary :key="`summary ${id}`" :site="s" />
      <h2>{{ s.outletOf ? 'Families and verdicts' : 'Families on this site' }}</h2>
      <p v-if="s.outletOf" class="soft small">
        Families and roles belong to
        <RouterLink :to="`/sites/${s.outletOf.id}`">{{ s.outletOf.name }}</RouterLink>; change them there.
      </p>
      <section v-for="u in s.families" :key="u.family.id" class="sheet used">
        <div class="row split">
          <span class="row"
            ><VerdictTag :state="u.verdict" :signed="!!u.signOff" /><RouterLink :to="`/families/${u.family.id}`"
              ><strong>{{ u.family.name }}</strong></RouterLink
            ><span v-if="u.hosts.length" class="soft small">loaded from {{ u.hosts.join(', ') }} on each page view</span
            ><span v-else class="soft small">{{ u.faces }} face{{ u.faces === 1 ? '' : 's' }}</span></span
          >
          <span class="row">
            <ElButton v-if="!u.mayGoOut && maySign(u.verdict)" size="small" @click="signing = u.family"
              >Sign off</ElButton
            >
            <ElButton
              v-if="mayPlace && !u.hosts.length"
              size="small"
              :aria-label="`Change files of ${u.family.name}`"
              @click="reshaping = u"
              >Change files</ElButton
            >
            <ElButton
              v-if="mayPlace"
              size="small"
              text
              :aria-label="`Remove ${u.family.name} from this site`"
              @click="drop.mutate(u)"
              >Remove</ElButton
            >
          </span>
        </div>
        <p v-if="u.reshaped" class="small reshaped">Changes in packs: {{ u.reshaped }}.</p>
        <ul class="reasons small">
          <li v-for="r in u.reasons" :key="r.code + r.evidence">
            <span>{{ r.message }}</span>
            <RouterLink v-if="r.license" :to="{ path: '/licenses', query: { show: r.license } }">{{
              r.evidence
            }}</RouterLink><span v-else class="soft">{{ r.evidence }}</span>
          </li>
        </ul>
        <p v-if="u.signOff" class="small signed">
          Signed off by {{ u.signOff.by }}, <TimeAgo :at="u.signOff.at" /><template v-if="u.signOff.until"
            >, until {{ u.signOff.until }}</template
          >: “{{ u.signOff.reason }}”
          <button v-if="mayEdit" type="button" class="act" @click="askRevoke(u)">Revoke</button>
        </p>
      </section>
      <form v-if="mayPlace" class="row" @submit.prevent="chosen && use.mutate(chosen)">
        <FamilyPicker
          v-model="chosen"
          placeholder="Choose a family"
          label="Family to add to this site"
          :client="s.client.name"
          :except="s.families.map((u) => u.family.id)"
          class="choose"
        />
        <ElButton native-type="submit" :disabled="!chosen">Add to site</ElButton>
      </form>
      <SiteViews :id="id" :key="`views ${id}`" :may-edit="mayEdit" />
      <p v-if="s.families.length"><RouterLink :to="`/sites/${id}/pack`">Plan the pack</RouterLink></p>
      <SiteLive v-if="mayEdit && s.families.length" :id="id" :key="`live ${id}`" />
      <SiteRecipe v-model="reshaping" :site="id" />
      <SignOffForm v-model="signing" :site="id" />
    </template>
    <p v-else class="soft">Loading …</p>
  </div>
</template>

<style scoped>
.used {
  margin-bottom: 0.7rem;
}
.split {
  justify-content: space-between;
}
.reasons {
  margin: 0.5rem 0 0;
  padding-left: 1.1rem;
}
.reshaped {
  margin: 0.4rem 0 0;
}
.signed {
  margin: 0.4rem 0 0;
  color: var(--good);
}
.act {
  color: var(--sea);
  background: none;
  border: 0;
  padding: 0;
  font: inherit;
  cursor: pointer;
}
.choose {
  width: min(24rem, 100%);
}
</style>
