<script setup lang="ts">
import { ElOption, ElOptionGroup, ElSelect } from 'element-plus'
import { computed, ref, toRef } from 'vue'
import type { Schemas } from '../../api/client'
import { familyChoices, shortlists } from '../../api/queries'

/** Chooses families, found as one types; those on the client's shortlists come first. */
const props = defineProps<{
  label: string
  placeholder: string
  client?: string
  multiple?: boolean
  except?: number[]
  known?: Schemas['Ref'][]
}>()
const chosen = defineModel<number | number[]>()
const typed = ref('')
const { data: lists } = shortlists(toRef(() => props.client ?? ''))
const { data: found } = familyChoices(typed)
type Option = { id: number; name: string; client?: string }
const groups = computed(() => {
  const seen = new Set(props.except)
  const fresh = (all: Option[]) => all.filter((f) => !seen.has(f.id) && seen.add(f.id))
  const like = typed.value.toLowerCase()
  return [
    { label: 'Chosen', options: fresh(props.known ?? []) },
    ...(lists.value ?? []).map((l) => ({
      label: `Shortlist ${l.name}`,
      options: fresh(
        l.families
          .filter((f) => (f.faces.length || f.hosts.length) && f.name.toLowerCase().includes(like))
          .map((f) => ({ id: f.id, name: f.name, client: f.client.name })),
      ),
    })),
    {
      label: 'All families',
      options: fresh((found.value ?? []).map((f) => ({ id: f.id, name: f.name, client: f.client.name }))),
    },
  ].filter((g) => g.options.length)
})
const name = (f: Option) => (f.client ? `${f.name} (${f.client})` : f.name)
</script>

<template>
  <ElSelect
    v-model="chosen"
    :multiple="multiple"
    filterable
    remote
    :remote-method="(t: string) => (typed = t.trim())"
    remote-show-suffix
    :placeholder="placeholder"
    :aria-label="label"
  >
    <ElOptionGroup v-for="g in groups" :key="g.label" :label="g.label">
      <ElOption v-for="f in g.options" :key="f.id" :value="f.id" :label="name(f)" />
    </ElOptionGroup>
  </ElSelect>
</template>
