<script setup lang="ts">
import { ElButton, ElInput, ElOption, ElSelect } from 'element-plus'
import { computed, reactive, ref } from 'vue'
import { api, data, type Schemas } from '../../api/client'
import { change } from '../../api/queries'
import { choosing, useTrouble } from '../../composables/form'
import { place, placed, weights } from '../../composables/roles'
import FamilyPicker from '../shared/FamilyPicker.vue'

/** Font names of the design that are replaced by families. */
const props = defineProps<{ site: Schemas['Site']; mayEdit: boolean }>()
const styles = weights.flatMap((w) => [
  { value: `${w.value}`, label: w.label },
  { value: `${w.value} italic`, label: `${w.label} italic` },
])
const form = reactive({ name: '', family: undefined as number | undefined, styles: ['400'] })
const trouble = useTrouble()
const set = change(
  (replacements: Schemas['Replacement'][]) => place(props.site, { ...placed(props.site), replacements }),
  ['sites', 'families'],
  () => (form.name = ''),
  true,
)
/** The names, each with what it becomes in which weights and styles. */
const names = computed(() => {
  const out = new Map<string, Schemas['Replacement'][]>()
  for (const s of props.site.replacements) out.set(s.name, [...(out.get(s.name) ?? []), s])
  return [...out]
})
const styleOf = (s: Schemas['Replacement']) => `${s.weight}${s.slope === 'normal' ? '' : ` ${s.slope}`}`
const add = () =>
  form.family &&
  trouble.guard(() =>
    set.mutateAsync([
      ...props.site.replacements.filter((o) => o.name.toLowerCase() !== form.name.trim().toLowerCase()),
      ...form.styles.map((style) => {
        const [weight, slope] = style.split(' ')
        return {
          name: form.name,
          family: form.family!,
          weight: Number(weight),
          slope: (slope ?? 'normal') as Schemas['Replacement']['slope'],
        }
      }),
    ]),
  )
const familyOf = (id: number) => props.site.families.find((f) => f.family.id === id)
const familyName = (id: number) => familyOf(id)?.family.name ?? `family ${id}`
const found = ref<Schemas['ReplacementCheck']>()
const check = change(
  () => data(api.POST('/sites/{id}/replacements/check', { params: { path: { id: props.site.id } } })),
  [],
  (c) => (found.value = c),
  true,
)
</script>

<template>
  <h2>Replacements</h2>
  <p class="soft small">
    Fonts named in the design that are replaced on the published page. Every text in that font is replaced, also where
    it was not intended.
  </p>
  <ul class="list">
    <li v-for="[name, all] in names" :key="name" class="row one">
      <span
        ><strong>{{ name }}</strong> replaced by {{ familyName(all[0]!.family) }}, {{ all.map(styleOf).join(', ')
        }}<span v-if="familyOf(all[0]!.family)?.hosts.length" class="soft">
          loaded from {{ familyOf(all[0]!.family)!.hosts.join(', ') }}</span
        ></span
      ><ElButton
        v-if="mayEdit"
        size="small"
        text
        :aria-label="`Remove the replacement of ${name}`"
        @click="set.mutate(site.replacements.filter((o) => o.name !== name))"
        >Remove</ElButton
      >
    </li>
  </ul>
  <form v-if="mayEdit" class="row" @submit.prevent="add" @keydown.enter="choosing">
    <ElInput
      v-model="form.name"
      placeholder="Font in the design"
      aria-label="Font in the design"
      class="name"
      maxlength="200"
    />
    <FamilyPicker
      v-model="form.family"
      placeholder="Replaced by"
      label="Replacement family"
      :client="site.client.name"
      :known="site.families.map((f) => f.family)"
      class="family"
    />
    <ElSelect
      v-model="form.styles"
      multiple
      collapse-tags
      :max-collapse-tags="2"
      aria-label="Weights and styles of the replacement"
      class="weight"
      ><ElOption v-for="s in styles" :key="s.value" :value="s.value" :label="s.label"
    /></ElSelect>
    <ElButton native-type="submit" :disabled="!form.name.trim() || !form.family || !form.styles.length"
      >Add replacement</ElButton
    >
  </form>
  <p v-if="trouble.text.value" role="alert" class="trouble small">{{ trouble.text.value }}</p>
  <div v-if="names.length && mayEdit" class="check">
    <ElButton size="small" :loading="check.isPending.value" @click="trouble.guard(() => check.mutateAsync(undefined))"
      >Check the published pages</ElButton
    >
    <div v-if="found" class="small" role="status">
      <p v-for="i in found.items" :key="i.name">
        <strong>{{ i.name }}</strong>
        <template v-if="!i.roles.length && !i.pages.length">
          is not used by any role{{ found.pages.length ? ', and set on none of the pages read' : '' }}.
        </template>
        <template v-if="i.roles.length"> is a fallback font of the roles {{ i.roles.join(', ') }}.</template>
        <template v-for="p in i.pages" :key="p.url">
          <br /><a :href="p.url" target="_blank" rel="noreferrer noopener">{{ p.url }}</a> sets in it:
          <code>{{ p.selectors.join('; ') }}</code>
        </template>
      </p>
      <p class="soft">
        Pages read: {{ found.pages.join(', ') || 'none' }}.
        <template v-for="u in found.unread" :key="u.url"> {{ u.url }} was not read: {{ u.why }}</template>
      </p>
    </div>
  </div>
</template>

<style scoped>
.one {
  justify-content: space-between;
  padding: 0.4rem 0;
}
.name {
  width: min(14rem, 100%);
}
.family {
  width: min(18rem, 100%);
}
.weight {
  width: 16rem;
}
form,
.check {
  margin-top: 0.6rem;
}
.trouble {
  color: var(--bad);
}
code {
  overflow-wrap: anywhere;
}
</style>
