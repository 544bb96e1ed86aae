<script setup lang="ts">
import { ElButton } from 'element-plus'
import { computed, ref, toRef } from 'vue'
import type { Schemas } from '../api/client'
import { me, site } from '../api/queries'
import FaceSample from '../components/face/FaceSample.vue'
import RoleForm from '../components/site/RoleForm.vue'
import RolesTable from '../components/site/RolesTable.vue'
import SiteHead from '../components/site/SiteHead.vue'
import SiteReplacements from '../components/site/SiteReplacements.vue'
import Trouble from '../components/shared/Trouble.vue'
import WarningList from '../components/site/WarningList.vue'
import { sizeOf } from '../composables/roles'

const props = defineProps<{ id: number }>()
const { data: s, error } = site(toRef(props, 'id'))
const { data: person } = me()
const mayEdit = computed(() => person.value?.role !== 'viewer' && !s.value?.outletOf)
const editing = ref(false)
const many = ref(false)
const chosen = ref<Schemas['AssignedRole']>()
const words = computed(() => s.value?.sampleText || 'Quick zephyrs blow, vexing daft Jim')
/** Why a role is not shown set: looking at it would call somebody else's server. */
function awayFrom(family: number) {
  const hosts = s.value?.families.find((f) => f.family.id === family)?.hosts ?? []
  return hosts.length
    ? `Served by ${hosts.join(' and ')}; setting it here would call that server.`
    : 'It has no files in the catalog.'
}

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
      <div class="row top">
        <h2>Font roles</h2>
        <span v-if="mayEdit" class="row">
          <ElButton @click="many = true">Many roles at once</ElButton>
          <ElButton type="primary" @click="edit()">Assign a font</ElButton>
        </span>
      </div>
      <p v-if="!s.roles.length" class="soft">
        No roles yet. Assign fonts to body text and headings. Packs then include only the faces that are needed, with
        styles.
      </p>
      <ul class="list">
        <li v-for="r in s.roles" :key="r.assignment.role" class="role">
          <div class="what">
            <strong>{{ r.title }}</strong>
            <span class="soft small"
              >{{ r.family.name }} {{ r.face || '(no face)' }}, {{ r.assignment.weight
              }}<template v-if="r.assignment.slope !== 'normal'">, {{ r.assignment.slope }}</template></span
            >
            <span class="soft small">then {{ r.assignment.fallbacks.join(', ') || 'a generic family' }}</span>
            <code v-if="r.selector" class="small">{{ r.selector }}</code>
            <span v-if="r.assignment.override" class="soft small">overrides platform styles</span>
          </div>
          <FaceSample
            v-if="r.file"
            :file-id="r.file"
            format=""
            :place="r.place ?? 0"
            :size="sizeOf(r.assignment.role)"
            :text="words"
            :variations="`'wght' ${r.assignment.weight}`"
            wrap
            class="sample"
          />
          <span v-else class="soft small sample">{{ awayFrom(r.family.id) }}</span>
          <ElButton v-if="mayEdit" size="small" :aria-label="`Change ${r.title}`" @click="edit(r)">Change</ElButton>
        </li>
      </ul>
      <WarningList :warnings="s.warnings" />
      <SiteReplacements :site="s" :may-edit="mayEdit" />
      <RoleForm v-model="editing" :site="s" :role="chosen" />
      <RolesTable v-if="mayEdit" v-model="many" :site="s" />
    </template>
    <p v-else class="soft">Loading …</p>
  </div>
</template>

<style scoped>
.top {
  justify-content: space-between;
}
.role {
  display: grid;
  grid-template-columns: 15rem minmax(0, 1fr) auto;
  gap: 0.4rem 1.2rem;
  padding: 0.9rem 0;
  align-items: start;
}
.what {
  display: grid;
  gap: 0.1rem;
}
code {
  font-family: ui-monospace, 'Liberation Mono', monospace;
  overflow-wrap: anywhere;
}
@media (max-width: 46rem) {
  .role {
    grid-template-columns: minmax(0, 1fr) auto;
  }
  .what {
    grid-column: 1;
  }
  .sample {
    grid-column: 1 / -1;
    grid-row: 2;
  }
}
</style>
