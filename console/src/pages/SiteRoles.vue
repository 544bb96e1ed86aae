<script setup lang="ts">
import { ElButton, ElOption, ElOptionGroup, ElSelect } from 'element-plus'
import { computed, ref, toRef } from 'vue'
import type { Schemas } from '../api/client'
import { change, me, site } from '../api/queries'
import RoleForm from '../components/site/RoleForm.vue'
import RolePreview from '../components/site/RolePreview.vue'
import FamilyPicker from '../components/shared/FamilyPicker.vue'
import SiteHead from '../components/site/SiteHead.vue'
import SiteReplacements from '../components/site/SiteReplacements.vue'
import Trouble from '../components/shared/Trouble.vue'
import WarningList from '../components/site/WarningList.vue'
import { useTrouble } from '../composables/form'
import { useRoleDraft } from '../composables/roledraft'
import { place, roles } from '../composables/roles'

/** Which font sets which part of a site, in one table, with a page beside it that shows what is chosen. */
const props = defineProps<{ id: number }>()
const { data: s, error } = site(toRef(props, 'id'))
const { data: person } = me()
const mayEdit = computed(() => person.value?.role !== 'viewer' && !s.value?.outletOf)
const none = { families: [], roles: [], replacements: [] } as unknown as Schemas['Site']
const draft = useRoleDraft(computed(() => s.value ?? none))
const also = ref<number>()
function addFamily(id: number | number[] | undefined) {
  if (typeof id === 'number') draft.added.value = [...draft.added.value, id]
  also.value = undefined
}

const usual = ['body', 'heading-1', 'heading-2', 'heading-3', 'navigation', 'buttons']
const more = ref(false)
const rows = computed(() => {
  const assigned = s.value?.roles ?? []
  const known = roles
    .filter((r) => more.value || usual.includes(r.value) || draft.value(r.value))
    .map((r) => ({
      role: r.value as string,
      title: r.label as string,
      set: assigned.find((a) => a.assignment.role === r.value),
    }))
  const own = assigned
    .filter((a) => !roles.some((r) => r.value === a.assignment.role))
    .map((a) => ({ role: a.assignment.role, title: a.title, set: a as Schemas['AssignedRole'] | undefined }))
  return [...known, ...own].filter((r) => mayEdit.value || r.set)
})
function sameForHeadings() {
  for (let n = 2; n <= 6; n++) draft.choose(`heading-${n}`, draft.value('heading-1'))
}
/** What stands under a role's font: how it is found, what it falls back to, where it applies. */
const details = (r: Schemas['AssignedRole']) =>
  [
    `${r.face || 'no face'}, ${r.assignment.weight}${r.assignment.slope === 'normal' ? '' : ` ${r.assignment.slope}`}`,
    `then ${r.assignment.fallbacks.join(', ') || 'a generic family'}`,
    r.assignment.override && 'overrides platform styles',
  ]
    .filter(Boolean)
    .join('; ')
/** Why a role is not shown set: looking at it would call somebody else's server. */
function awayFrom(family: number) {
  const hosts = s.value?.families.find((f) => f.family.id === family)?.hosts ?? []
  return hosts.length
    ? `Served by ${hosts.join(' and ')}; setting it here would call that server.`
    : 'It has no files in the catalog.'
}

const trouble = useTrouble()
const save = change(
  () => place(s.value!, draft.assignments()),
  ['sites', 'families'],
  () => draft.discard(),
  true,
)
const editing = ref(false)
const chosen = ref<Schemas['AssignedRole']>()
function edit(role?: Schemas['AssignedRole']) {
  chosen.value = role
  editing.value = true
}
</script>

<template>
  <div class="page">
    <Trouble v-if="error" :error="error" />
    <template v-else-if="s">
      <SiteHead :site="s" />
      <div class="two">
        <form aria-label="Fonts by role" @submit.prevent="trouble.guard(() => save.mutateAsync(undefined))">
          <div class="row top">
            <h2>Fonts and roles</h2>
            <ElButton v-if="mayEdit" @click="edit()">Assign a font</ElButton>
          </div>
          <p v-if="!s.roles.length" class="soft">
            No roles yet. Choose fonts for body text and headings. Packs then include only the faces that are needed,
            with styles.
          </p>
          <table class="plain roles">
            <thead>
              <tr>
                <th>Role</th>
                <th>Font</th>
                <th v-if="mayEdit">More</th>
              </tr>
            </thead>
            <tbody>
              <tr v-for="r in rows" :key="r.role" class="role" :class="{ changed: r.role in draft.changes.value }">
                <th scope="row">{{ r.title }}</th>
                <td>
                  <ElSelect
                    v-if="mayEdit"
                    :model-value="draft.value(r.role)"
                    clearable
                    filterable
                    placeholder="No font"
                    :aria-label="`Font for ${r.title}`"
                    :empty-values="[null, undefined, '']"
                    @update:model-value="draft.choose(r.role, $event ?? '')"
                  >
                    <ElOptionGroup v-for="g in draft.groups.value" :key="g.id" :label="g.name">
                      <ElOption v-for="c in g.choices" :key="c.value" :value="c.value" :label="c.label" />
                    </ElOptionGroup>
                  </ElSelect>
                  <strong v-else>{{ r.set?.family.name }}</strong>
                  <div v-if="r.role in draft.changes.value" class="small caution">Not saved yet</div>
                  <template v-else-if="r.set">
                    <div class="soft small">{{ details(r.set) }}</div>
                    <code v-if="r.set.selector" class="small">{{ r.set.selector }}</code>
                    <div v-if="!r.set.file" class="soft small">{{ awayFrom(r.set.family.id) }}</div>
                  </template>
                  <ElButton
                    v-if="mayEdit && r.role === 'heading-1' && draft.value(r.role)"
                    link
                    type="primary"
                    @click="sameForHeadings"
                    >Same for all headings</ElButton
                  >
                </td>
                <td v-if="mayEdit">
                  <ElButton v-if="r.set" size="small" :aria-label="`Change ${r.title}`" @click="edit(r.set)"
                    >Details</ElButton
                  >
                </td>
              </tr>
            </tbody>
          </table>
          <template v-if="mayEdit">
            <div class="row small under">
              <ElButton v-if="!more" size="small" @click="more = true">More roles</ElButton>
              <FamilyPicker
                :model-value="also"
                label="Family to choose faces of"
                placeholder="Add a family to choose from"
                :client="s.client.name"
                :except="draft.groups.value.map((g) => g.id)"
                class="also"
                @update:model-value="addFamily"
              />
            </div>
            <p v-if="trouble.text.value" role="alert" class="alarm">{{ trouble.text.value }}</p>
            <div v-if="draft.dirty.value" class="row saving">
              <ElButton type="primary" native-type="submit" :loading="save.isPending.value">Save roles</ElButton>
              <ElButton @click="draft.discard()">Discard changes</ElButton>
              <span class="soft small">The preview shows what is chosen.</span>
            </div>
          </template>
        </form>
        <RolePreview :look="draft.look" :sample="s.sampleText" :client="s.client.name" class="beside" />
      </div>
      <WarningList :warnings="s.warnings" />
      <SiteReplacements :site="s" :may-edit="mayEdit" />
      <RoleForm v-model="editing" :site="s" :role="chosen" />
    </template>
    <p v-else class="soft">Loading …</p>
  </div>
</template>

<style scoped>
.two {
  display: grid;
  grid-template-columns: minmax(0, 1fr) minmax(0, 1fr);
  gap: 1.8rem;
  align-items: start;
}
.beside {
  position: sticky;
  top: 0.8rem;
}
.top {
  justify-content: space-between;
}
.top h2 {
  margin: 0 0 0.6rem;
}
.role th {
  width: 7.5rem;
  text-align: left;
  font-weight: 600;
  color: var(--ink);
}
.role th,
.role td {
  vertical-align: top;
  padding-top: 0.6rem;
  padding-bottom: 0.6rem;
}
.role td:last-child {
  width: 5rem;
}
.changed {
  box-shadow: inset 3px 0 var(--caution);
}
.caution {
  color: var(--caution);
}
.alarm {
  color: var(--bad);
}
.under {
  margin: 0.8rem 0;
}
.also {
  width: min(18rem, 100%);
}
.saving {
  position: sticky;
  bottom: 0;
  z-index: 2;
  background: var(--page);
  padding: 0.6rem 0;
}
code {
  font-family: ui-monospace, 'Liberation Mono', monospace;
  overflow-wrap: anywhere;
}
@media (max-width: 60rem) {
  .two {
    grid-template-columns: minmax(0, 1fr);
  }
  .beside {
    position: static;
  }
}
</style>
