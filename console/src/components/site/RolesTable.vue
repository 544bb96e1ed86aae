<script setup lang="ts">
import { useQueries } from '@tanstack/vue-query'
import { ElButton, ElDialog, ElOption, ElOptionGroup, ElSelect } from 'element-plus'
import { computed, ref, watch } from 'vue'
import type { Schemas } from '../../api/client'
import { change, familyQuery } from '../../api/queries'
import { useTrouble } from '../../composables/form'
import { place, placed, roles } from '../../composables/roles'
import FamilyPicker from '../shared/FamilyPicker.vue'

/** Says in one table which faces do the known roles of a site. */
const props = defineProps<{ site: Schemas['Site'] }>()
const open = defineModel<boolean>({ required: true })
const also = ref<number>()
const families = computed(() => {
  const ids = props.site.families.map((f) => f.family.id)
  return also.value && !ids.includes(also.value) ? [...ids, also.value] : ids
})
const read = useQueries({
  queries: computed(() => families.value.map((id) => ({ ...familyQuery(id), enabled: open.value }))),
})
const groups = computed(() =>
  read.value
    .flatMap((q) => (q.data ? [q.data] : []))
    .map((f) => ({
      id: f.id,
      name: f.name,
      faces: f.faces.length
        ? f.faces.map((face) => ({ value: `${f.id}:${face.id}`, style: face.style }))
        : [{ value: `${f.id}:400`, style: 'Regular' }],
    })),
)
/** What is chosen for each role, as family:face; a weight in place of a face that roles find by weight. */
const chosen = ref<Record<string, string>>({})
const valueOf = (p: Schemas['RoleAssignment']) => `${p.family}:${p.face ?? `${p.weight} ${p.slope}`}`
/** Choices that are no face of their own: weights that assignments ask for. */
const byWeight = computed(() =>
  props.site.roles
    .filter((r) => !r.assignment.face)
    .map((r) => ({
      value: valueOf(r.assignment),
      family: r.family,
      label: `${r.assignment.weight}${r.assignment.slope === 'normal' ? '' : ` ${r.assignment.slope}`}`,
    }))
    .filter((o, i, all) => all.findIndex((x) => x.value === o.value) === i),
)
const trouble = useTrouble()
watch(
  open,
  (now) => {
    if (!now) return
    trouble.clear()
    also.value = undefined
    chosen.value = Object.fromEntries(props.site.roles.map((r) => [r.assignment.role, valueOf(r.assignment)]))
  },
  { immediate: true },
)
const usual = ['body', 'heading-1', 'heading-2', 'heading-3', 'heading-4', 'heading-5', 'heading-6', 'navigation']
const more = ref(false)
const rows = computed(() => {
  const first = roles.filter((r) => usual.includes(r.value))
  const others = roles.filter((r) => !usual.includes(r.value) && (more.value || chosen.value[r.value]))
  return [...first, ...others]
})
function headings() {
  const first = chosen.value['heading-1']
  for (let n = 2; n <= 6; n++) chosen.value[`heading-${n}`] = first ?? ''
}
const save = change(
  () => {
    const now = placed(props.site)
    const assignments = now.assignments.flatMap((p) => {
      const value = roles.some((r) => r.value === p.role) ? chosen.value[p.role] : valueOf(p)
      return !value ? [] : [value === valueOf(p) ? p : { ...p, ...roleAssignmentOf(value) }]
    })
    for (const r of roles) {
      const value = chosen.value[r.value]
      if (!value || assignments.some((p) => p.role === r.value)) continue
      assignments.push({
        role: r.value,
        fallbacks: ['Arial', 'sans-serif'],
        override: false,
        ...roleAssignmentOf(value),
      })
    }
    return place(props.site, { assignments, replacements: now.replacements })
  },
  ['sites', 'families'],
  () => (open.value = false),
  true,
)
/** The face of a choice, with the weight and slope that it has. */
function roleAssignmentOf(value: string): Pick<Schemas['RoleAssignment'], 'family' | 'face' | 'weight' | 'slope'> {
  const [family, rest] = value.split(':')
  const face = read.value
    .flatMap((q) => q.data?.faces ?? [])
    .find((f) => String(f.id) === rest && groups.value.some((g) => g.faces.some((o) => o.value === value)))
  if (face) {
    const { weight, slope } = face.metadata.style
    return { family: Number(family), face: face.id, weight, slope: slope === 'upright' ? 'normal' : slope }
  }
  const [weight, slope] = rest.split(' ')
  return {
    family: Number(family),
    face: undefined,
    weight: Number(weight),
    slope: (slope || 'normal') as Schemas['FaceSlope'],
  }
}
</script>

<template>
  <ElDialog v-model="open" title="Many roles at once" width="min(44rem, 94vw)" top="4vh" append-to-body>
    <form @submit.prevent="trouble.guard(() => save.mutateAsync(undefined))">
      <table class="plain roles">
        <thead>
          <tr>
            <th>Role</th>
            <th>Shown in</th>
            <th></th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="r in rows" :key="r.value">
            <td>{{ r.label }}</td>
            <td>
              <ElSelect
                v-model="chosen[r.value]"
                clearable
                filterable
                placeholder="No font"
                :aria-label="`Font for ${r.label}`"
                ><ElOptionGroup v-for="g in groups" :key="g.id" :label="g.name"
                  ><ElOption
                    v-for="f in g.faces"
                    :key="f.value"
                    :value="f.value"
                    :label="`${g.name} ${f.style}`" /><ElOption
                    v-for="w in byWeight.filter((o) => o.family.id === g.id)"
                    :key="w.value"
                    :value="w.value"
                    :label="`${g.name}, weight ${w.label}`" /></ElOptionGroup
              ></ElSelect>
            </td>
            <td>
              <ElButton v-if="r.value === 'heading-1'" size="small" @click="headings">Same for all headings</ElButton>
            </td>
          </tr>
        </tbody>
      </table>
      <p class="row small">
        <ElButton v-if="!more" size="small" @click="more = true">More roles</ElButton>
        <span class="soft">Add a family that is not on the site yet:</span>
        <FamilyPicker
          v-model="also"
          label="Family to choose faces of"
          placeholder="Choose a family"
          :client="site.client.name"
          class="also"
        />
      </p>
      <p class="soft small">Fallback fonts, selectors and custom roles are not changed.</p>
      <p v-if="trouble.text.value" role="alert" class="alarm">{{ trouble.text.value }}</p>
      <div class="row">
        <ElButton type="primary" native-type="submit" :loading="save.isPending.value">Save roles</ElButton>
        <ElButton text @click="open = false">Cancel</ElButton>
      </div>
    </form>
  </ElDialog>
</template>

<style scoped>
.roles td {
  vertical-align: middle;
}
.roles td:nth-child(2) {
  width: 55%;
}
.roles td:first-child {
  width: 9rem;
}
.also {
  width: min(16rem, 100%);
}
.alarm {
  color: var(--bad);
}
</style>
