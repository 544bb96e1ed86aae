<script setup lang="ts">
import { ElButton, ElCheckbox, ElDialog, ElForm, ElFormItem, ElInput, ElOption, ElSelect } from 'element-plus'
import { useQuery } from '@tanstack/vue-query'
import { computed, reactive, watch } from 'vue'
import { api, data, type Schemas } from '../../api/client'
import { change } from '../../api/queries'
import { choosing, useTrouble } from '../../composables/form'
import { place, placed, roles, slopes, weights } from '../../composables/roles'
import FamilyPicker from '../shared/FamilyPicker.vue'

/** Says which family does a role on a site; the role given, or another one. */
const props = defineProps<{ site: Schemas['Site']; role?: Schemas['AssignedRole'] }>()
const open = defineModel<boolean>({ required: true })
const own = 'own'
const form = reactive({
  role: 'body',
  name: '',
  selector: '',
  family: undefined as number | undefined,
  face: 0,
  weight: 400,
  slope: 'normal' as Schemas['FaceSlope'],
  fallbacks: '',
  override: false,
})
const trouble = useTrouble()
const { data: family } = useQuery({
  queryKey: computed(() => ['families', form.family]),
  enabled: () => !!form.family,
  queryFn: () => data(api.GET('/families/{id}', { params: { path: { id: form.family! } } })),
})
const faces = computed(() => (family.value?.id === form.family ? family.value?.faces : undefined) ?? [])
const known = (role: string) => roles.some((r) => r.value === role)
const left = computed(() =>
  roles.filter(
    (r) => r.value === props.role?.assignment.role || !props.site.roles.some((p) => p.assignment.role === r.value),
  ),
)

watch(
  open,
  (now) => {
    if (!now) return
    trouble.clear()
    const p = props.role?.assignment
    Object.assign(form, {
      role: p ? (known(p.role) ? p.role : own) : (left.value[0]?.value ?? own),
      name: p?.name ?? '',
      selector: p?.selector ?? '',
      family: p?.family ?? props.site.families[0]?.family.id,
      face: p?.face ?? 0,
      weight: p?.weight ?? 400,
      slope: p?.slope ?? 'normal',
      fallbacks: p?.fallbacks.join(', ') ?? 'Arial, sans-serif',
      override: p?.override ?? false,
    })
  },
  { immediate: true },
)

const name = computed(() =>
  form.name
    .trim()
    .toLowerCase()
    .replace(/[^a-z0-9]+/g, '-')
    .replace(/^-|-$/g, ''),
)
const save = change(
  (remove: boolean) => {
    const now = placed(props.site)
    const one: Schemas['RoleAssignment'] = {
      role: form.role === own ? name.value : form.role,
      name: form.role === own ? form.name : undefined,
      selector: form.selector.trim() || undefined,
      family: form.family ?? 0,
      face: faces.value.some((f) => f.id === form.face) ? form.face : undefined,
      weight: form.weight,
      slope: form.slope,
      fallbacks: form.fallbacks
        .split(',')
        .map((f) => f.trim())
        .filter(Boolean),
      override: form.override,
    }
    const at = now.assignments.findIndex((p) => p.role === (props.role?.assignment.role ?? one.role))
    const assignments = [...now.assignments]
    if (remove) assignments.splice(at, 1)
    else if (at >= 0) assignments[at] = one
    else assignments.push(one)
    return place(props.site, { assignments, replacements: now.replacements })
  },
  ['sites', 'families'],
  () => (open.value = false),
  true,
)
const at = (field: string) => (trouble.field.value.endsWith(`.${field}`) ? trouble.text.value : '')
const fields = ['role', 'face', 'selector', 'weight', 'slope', 'fallbacks']
</script>

<template>
  <ElDialog
    v-model="open"
    :title="role ? `Change: ${role.title}` : 'Assign a font'"
    width="min(36rem, 94vw)"
    top="6vh"
    append-to-body
  >
    <ElForm
      label-position="top"
      @submit.prevent="trouble.guard(() => save.mutateAsync(false))"
      @keydown.enter="choosing"
    >
      <ElFormItem label="Role" :error="at('role')">
        <ElSelect v-model="form.role" aria-label="Role"
          ><ElOption v-for="r in left" :key="r.value" :value="r.value" :label="r.label" /><ElOption
            :value="own"
            label="Custom role …"
        /></ElSelect>
      </ElFormItem>
      <ElFormItem v-if="form.role === own" label="Name"
        ><ElInput v-model="form.name" maxlength="100" placeholder="Timetable cells"
      /></ElFormItem>
      <ElFormItem
        :label="form.role === own ? 'Selector' : 'Selector, where the usual one does not fit'"
        :error="at('selector')"
        ><ElInput v-model="form.selector" maxlength="500" placeholder=".timetable td"
      /></ElFormItem>
      <ElFormItem label="Family"
        ><FamilyPicker
          v-model="form.family"
          placeholder="Choose a family"
          label="Family for the role"
          :client="site.client.name"
          :known="site.families.map((f) => f.family)"
      /></ElFormItem>
      <ElFormItem label="Face" :error="at('face')"
        ><ElSelect v-model="form.face" aria-label="Face"
          ><ElOption :value="0" label="Automatic, by weight and style" /><ElOption
            v-for="f in faces"
            :key="f.id"
            :value="f.id"
            :label="f.style" /></ElSelect
      ></ElFormItem>
      <div v-if="!form.face" class="row pair">
        <ElFormItem label="Weight" :error="at('weight')"
          ><ElSelect v-model="form.weight" aria-label="Weight"
            ><ElOption v-for="w in weights" :key="w.value" :value="w.value" :label="w.label" /></ElSelect
        ></ElFormItem>
        <ElFormItem label="Style" :error="at('slope')"
          ><ElSelect v-model="form.slope" aria-label="Style"
            ><ElOption v-for="s in slopes" :key="s.value" :value="s.value" :label="s.label" /></ElSelect
        ></ElFormItem>
      </div>
      <ElFormItem label="Fallback fonts" :error="at('fallbacks')"
        ><ElInput v-model="form.fallbacks" placeholder="Arial, sans-serif" /><span class="soft small"
          >Known system fonts get matching metrics, so that text does not move when the font loads.</span
        ></ElFormItem
      >
      <ElCheckbox v-model="form.override" label="Override platform styles" />
      <p v-if="trouble.text.value && !fields.some(at)" role="alert" class="trouble">{{ trouble.text.value }}</p>
      <div class="row">
        <ElButton
          type="primary"
          native-type="submit"
          :disabled="!form.family || (form.role === own && !name)"
          :loading="save.isPending.value"
          >Save</ElButton
        >
        <ElButton v-if="role" @click="trouble.guard(() => save.mutateAsync(true))">Remove</ElButton>
        <ElButton text @click="open = false">Cancel</ElButton>
      </div>
    </ElForm>
  </ElDialog>
</template>

<style scoped>
.pair > * {
  flex: 1 1 10rem;
}
.trouble {
  color: var(--bad);
}
</style>
