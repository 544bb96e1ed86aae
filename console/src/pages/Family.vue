<script setup lang="ts">
import { ElButton } from 'element-plus'
import { computed, ref, toRef } from 'vue'
import { LicenseForm } from '../components/forms'
import { base } from '../api/client'
import { family } from '../api/queries'
import ShortlistButton from '../components/catalog/ShortlistButton.vue'
import FaceList from '../components/family/FaceList.vue'
import FamilyAbout from '../components/family/FamilyAbout.vue'
import FamilyDocuments from '../components/family/FamilyDocuments.vue'
import FamilyEverywhere from '../components/family/FamilyEverywhere.vue'
import FamilyHosted from '../components/family/FamilyHosted.vue'
import FamilyMatches from '../components/family/FamilyMatches.vue'
import FamilyMove from '../components/family/FamilyMove.vue'
import FamilyPack from '../components/family/FamilyPack.vue'
import FamilyProposals from '../components/family/FamilyProposals.vue'
import FamilyRemoved from '../components/family/FamilyRemoved.vue'
import FamilyVerdict from '../components/family/FamilyVerdict.vue'
import LicenseLine from '../components/licenses/LicenseLine.vue'
import SampleControls from '../components/shared/SampleControls.vue'
import Trouble from '../components/shared/Trouble.vue'
import { usePerson } from '../composables/person'
import { useRest } from '../composables/rest'
import { some } from '../composables/show'

/** A family: whether it may be used, its faces, licenses, documents and sites. */
const props = defineProps<{ id: number }>()
const { data: f, error } = family(toRef(props, 'id'))
const rest = useRest(f)
const person = usePerson()
const mayEdit = computed(() => person.value?.role !== 'viewer')
const recording = ref(false)
</script>

<template>
  <div class="page">
    <Trouble v-if="error" :error="error" />
    <template v-else-if="f">
      <div class="head">
        <div>
          <p class="soft small crumb">
            <RouterLink to="/families">Catalog</RouterLink> /
            <RouterLink :to="`/clients/${f.client.id}`">{{ f.client.name }}</RouterLink>
          </p>
          <h1>{{ f.name }}</h1>
        </div>
        <ShortlistButton v-if="mayEdit && f.status !== 'deleted'" :families="[f.id]" :client="f.client.name" />
      </div>
      <template v-if="rest">
        <FamilyAbout :key="f.id" :family="f" :may-edit="mayEdit" />
        <FamilyVerdict v-if="f.faces.length" :key="`verdict ${f.id}`" :family="f.id" :verdict="f.verdict" />
        <FamilyHosted v-if="f.hosted.length" :key="`hosted ${f.id}`" :family="f" :may-edit="mayEdit" />
        <template v-if="f.faces.length">
          <h2>{{ some(f.faces.length, 'face') }}</h2>
          <SampleControls />
          <FaceList :key="`faces ${f.id}`" :family="f" />
        </template>
        <FamilyRemoved v-if="f.removed.length" :faces="f.removed" :may-edit="mayEdit" />
        <details v-if="mayEdit && f.faces.length" class="moving">
          <summary>Move faces, split or merge</summary>
          <FamilyMove :key="f.id" :family="f" />
        </details>
        <div class="row split">
          <h2>Licenses</h2>
          <span class="row">
            <a :href="`/proof/${f.id}`" target="_blank">Print proof of use</a>
            <a :href="`${base}/families/${f.id}/proof`" download>Download proof (zip)</a>
            <ElButton v-if="mayEdit" @click="recording = true">Record a license</ElButton>
          </span>
        </div>
        <p v-if="!f.licenses.length" class="alarm">
          No license is recorded. Record one, or confirm an open license below.
        </p>
        <FamilyProposals :id="f.id" :key="`proposals ${f.id}`" :may-edit="mayEdit" />
        <ul class="list">
          <li v-for="l in f.licenses" :key="l.id"><LicenseLine :license="l" :may-edit="mayEdit" /></li>
        </ul>
        <template v-if="f.documents.length"
          ><h3>Documents</h3>
          <FamilyDocuments :family="f"
        /></template>
        <h2>Used on</h2>
        <p v-if="!f.sites.length && !f.faces.length" class="soft">
          This family has no files in the catalog, so it cannot go into packs. Self-host it, or give its URL to the
          platform.
        </p>
        <p v-else-if="!f.sites.length" class="soft">
          No site uses this family. <RouterLink to="/sites">Choose a site</RouterLink> to add it to.
        </p>
        <ul v-else class="row plainlist">
          <li v-for="s in f.sites" :key="s.id">
            <RouterLink :to="`/sites/${s.id}`">{{ s.name }}</RouterLink><span
              v-if="s.roles.length"
              class="soft small"
              >{{ `: ${s.roles.join(', ')}` }}</span
            >
          </li>
        </ul>
        <template v-if="f.faces.length && f.status === 'active'">
          <h2 id="pairings">Pairs with</h2>
          <FamilyMatches :id="f.id" :key="`pairings ${f.id}`" of="pairings" />
          <h2 id="similar">Similar families</h2>
          <FamilyMatches :id="f.id" :key="`similar ${f.id}`" of="similar" />
        </template>
        <FamilyEverywhere v-if="f.faces.length" :key="`everywhere ${f.id}`" :family="f" :may-edit="mayEdit" />
        <template v-if="mayEdit && f.faces.length">
          <h2>Other downloads</h2>
          <FamilyPack :family="f" />
        </template>
        <LicenseForm v-model="recording" :families="[f]" :client="f.client.id" />
      </template>
    </template>
    <p v-else class="soft">Loading …</p>
  </div>
</template>

<style scoped>
.crumb {
  margin: 0 0 0.2rem;
}
.split {
  justify-content: space-between;
  margin-top: 1.5rem;
}
.split h2 {
  margin: 0.5rem 0;
}
.alarm {
  color: var(--bad);
}
.moving summary {
  cursor: pointer;
  color: var(--sea);
  padding: 0.4rem 0;
}
.plainlist {
  list-style: none;
  padding: 0;
  margin: 0;
}
</style>
