<script setup lang="ts">
import { ElButton } from 'element-plus'
import { computed, toRef } from 'vue'
import { api, data, type Schemas } from '../../api/client'
import { change, site as siteOf, sitePages } from '../../api/queries'
import { some } from '../../composables/show'

/** The site as a survey saw it, beside what is recorded, to be taken over. */
const props = defineProps<{ proposal: Schemas['SiteProposal']; siteId: number; mayEdit: boolean }>()
const id = toRef(props, 'siteId')
const { data: s } = siteOf(id)
const { data: known } = sitePages(id)
const path = computed(() => ({ params: { path: { id: props.siteId } } }))
const pages = computed(() => {
  const there = new Set(known.value?.items.map((p) => p.url))
  return props.proposal.pages.filter((p) => !there.has(p))
})
/** Roles whose family is in the catalog and that the site does not have yet. */
const roles = computed(() => {
  const there = new Set(s.value?.roles.map((r) => r.assignment.role))
  return props.proposal.roles.filter((r) => r.family && !there.has(r.role))
})
const slopeOf = (style: string): Schemas['RoleAssignment']['slope'] =>
  style === 'italic' || style === 'oblique' ? style : 'normal'
const addPages = change(
  () => data(api.POST('/sites/{id}/pages', { ...path.value, body: { pages: pages.value.map((url) => ({ url })) } })),
  ['sites', 'inspections'],
)
const addRoles = change(
  () =>
    data(
      api.PUT('/sites/{id}/roles', {
        params: { ...path.value.params, header: { 'If-Match': s.value!.etag } },
        body: {
          assignments: [
            ...s.value!.roles.map((r) => r.assignment),
            ...roles.value.map((r) => ({
              role: r.role,
              family: r.family!.id,
              weight: r.weight,
              slope: slopeOf(r.style),
              fallbacks: [],
              override: false,
            })),
          ],
          replacements: s.value!.replacements,
        },
      }),
    ),
  ['sites'],
)
</script>

<template>
  <section v-if="proposal.roles.length || proposal.pages.length" aria-label="Proposed record of the site">
    <h2>Proposed record of the site</h2>
    <div v-if="proposal.roles.length" class="wide">
      <table class="plain">
        <thead>
          <tr>
            <th>Role</th>
            <th>Selector</th>
            <th>Family</th>
            <th>Weight</th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="r in proposal.roles" :key="r.role">
            <td>{{ r.role }}</td>
            <td>
              <code>{{ r.selector }}</code>
            </td>
            <td>
              <RouterLink v-if="r.family" :to="`/families/${r.family.id}`">{{ r.family.name }}</RouterLink><template
                v-else
                >{{ r.name }}, not in the catalog</template
              >
            </td>
            <td>{{ r.weight }}{{ r.style === 'normal' ? '' : `, ${r.style}` }}</td>
          </tr>
        </tbody>
      </table>
    </div>
    <div v-if="mayEdit && s && !s.outletOf" class="row">
      <ElButton v-if="roles.length" @click="addRoles.mutate(undefined)"
        >Record {{ some(roles.length, 'role') }} that the site does not have</ElButton
      >
      <ElButton v-if="pages.length" @click="addPages.mutate(undefined)"
        >Add {{ some(pages.length, 'page') }} to the site’s list</ElButton
      >
    </div>
  </section>
</template>

<style scoped>
table {
  margin-bottom: 0.6rem;
}
</style>
