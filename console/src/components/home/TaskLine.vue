<script setup lang="ts">
import { ElButton, ElDropdown, ElDropdownItem, ElDropdownMenu, ElMessage, ElOption, ElSelect } from 'element-plus'
import { computed, h, ref } from 'vue'
import { api, base, data, type Schemas } from '../../api/client'
import { change, owners } from '../../api/queries'
import { daysOn, spans } from '../../composables/home'
import { away, origins } from '../../composables/show'

/** Something that needs attention, with what can be done about it in place. */
const props = defineProps<{ item: Schemas['DueItem']; mayEdit: boolean; selected: boolean }>()
const emit = defineEmits<{
  select: [on: boolean]
  renew: [license: number]
  record: [families: Schemas['Ref'][], client?: number]
  sign: [site: number, family: Schemas['Ref']]
}>()
const origin = ref<Schemas['Origin']>()
const setOrigin = change(
  (value: Schemas['Origin']) =>
    data(api.POST('/families/change', { body: { families: props.item.families.map((f) => f.id), origin: value } })),
  ['families', 'gaps'],
)
const path = { params: { path: { key: props.item.key } } }
const snooze = change(
  (days: number) => data(api.PUT('/due/{key}/snooze', { ...path, body: { until: daysOn(days) } })),
  [],
)
const wake = change(() => data(api.DELETE('/due/{key}/snooze', path)), [])
const choosing = ref(false)
const { data: people } = owners(choosing)
const assign = change((person: number) => data(api.PUT('/due/{key}/owner', { ...path, body: { person } })), [])
const unassign = change(() => data(api.DELETE('/due/{key}/owner', path)), [])
const own = (person: number) => (person ? assign.mutate(person) : unassign.mutate(undefined))
const rebuild = change(
  () =>
    data(
      api.POST('/sites/{id}/packs', {
        params: { path: { id: site.value!.id }, query: { environment: props.item.environment } },
      }),
    ),
  ['sites', 'packs'],
  (p) => {
    const name = site.value?.name ?? ''
    ElMessage({
      type: 'success',
      duration: 15000,
      showClose: true,
      message: h('span', { role: 'status' }, [
        `The pack of ${name} is rebuilt. `,
        h('a', { href: `${base}/packs/${p.id}/content`, download: '' }, 'Download it'),
      ]),
    })
  },
)
const confirm = change(
  () => data(api.POST('/gaps/confirm', { body: { families: props.item.families.map((f) => f.id) } })),
  ['families', 'licenses', 'sites', 'gaps'],
  (d) => d.refused.length && ElMessage({ type: 'warning', message: d.refused.map((r) => r.why).join(' ') }),
)
const site = computed(() => (props.item.sites.length === 1 ? props.item.sites[0] : undefined))
const family = computed(() => (props.item.families.length === 1 ? props.item.families[0] : undefined))
const renews = computed(() => ['license-ended', 'license-ends'].includes(props.item.kind))
const licensable = computed(() => ['blocked', 'unlicensed', 'review'].includes(props.item.kind))
const signable = computed(
  () => ['blocked', 'unlicensed', 'review', 'sign-off-ends'].includes(props.item.kind) && site.value && family.value,
)
const link = computed(() => {
  const s = site.value
  switch (props.item.kind) {
    case 'pack-outdated':
      return s && { to: `/sites/${s.id}/pack`, name: 'What changed' }
    case 'backup-late':
      return { to: '/settings?tab=service', name: 'Show service settings' }
    case 'new-findings':
      return s && { to: `/sites/${s.id}/inspections`, name: 'Show findings' }
    case 'over-limit':
    case 'near-limit':
      return s && { to: `/sites/${s.id}`, name: 'Enter page views' }
    default:
      return undefined
  }
})
</script>

<template>
  <li class="item" :class="[item.state, { read: !mayEdit }]" :data-kind="item.kind">
    <input
      v-if="mayEdit"
      type="checkbox"
      class="select"
      :checked="selected"
      :aria-label="`Select: ${item.message}`"
      @change="emit('select', ($event.target as HTMLInputElement).checked)"
    />
    <span class="when" :title="item.day"
      ><strong v-if="item.days !== undefined">{{ away(item.days) }}</strong
      ><span v-else class="soft small">now</span></span
    >
    <div>
      <p>{{ item.message }}</p>
      <p class="row small links">
        <RouterLink v-if="item.client" class="soft" :to="`/clients/${item.client.id}`">{{
          item.client.name
        }}</RouterLink>
        <RouterLink v-for="s in item.sites" :key="`s${s.id}`" :to="`/sites/${s.id}`">{{ s.name }}</RouterLink>
        <RouterLink v-for="f in item.families" :key="`f${f.id}`" :to="`/families/${f.id}`">{{ f.name }}</RouterLink>
        <RouterLink v-if="item.license" :to="{ path: '/licenses', query: { show: item.license.id } }"
          >License {{ item.license.id }}</RouterLink
        >
        <span v-if="item.owner && !mayEdit" class="soft">assigned to {{ item.owner.name }}</span>
        <span v-if="item.snoozedUntil" class="soft">snoozed until {{ item.snoozedUntil }}</span>
      </p>
    </div>
    <div v-if="mayEdit" class="row acts">
      <ElButton v-if="renews && item.license" size="small" @click="emit('renew', item.license.id)">Renew</ElButton>
      <ElButton
        v-if="licensable && item.families.length"
        size="small"
        @click="emit('record', item.families, item.client?.id)"
        >Record a license</ElButton
      >
      <ElButton v-if="signable" size="small" @click="emit('sign', site!.id, family!)">Sign off</ElButton>
      <ElButton
        v-if="item.openLicense"
        size="small"
        :loading="confirm.isPending.value"
        @click="confirm.mutate(undefined)"
        >Confirm open license</ElButton
      >
      <ElButton
        v-if="item.kind === 'pack-outdated' && site"
        size="small"
        :loading="rebuild.isPending.value"
        @click="rebuild.mutate(undefined)"
        >Rebuild pack</ElButton
      >
      <RouterLink v-if="link" class="small" :to="link.to">{{ link.name }}</RouterLink>
      <ElSelect
        v-if="item.kind === 'unknown-origin'"
        v-model="origin"
        size="small"
        class="origin"
        placeholder="Set origin"
        :aria-label="`Origin of ${item.families.map((f) => f.name).join(', ')}`"
        @change="(v: Schemas['Origin']) => setOrigin.mutate(v)"
        ><ElOption
          v-for="o in origins.filter((o) => !['unknown', 'hosted'].includes(o.value))"
          :key="o.value"
          :value="o.value"
          :label="o.label"
      /></ElSelect>
      <ElDropdown
        trigger="click"
        :persistent="false"
        max-height="20rem"
        @visible-change="choosing ||= $event"
        @command="own"
        ><ElButton size="small" text :aria-label="`Assign: ${item.message}`">{{
          item.owner ? item.owner.name : 'Assign'
        }}</ElButton
        ><template #dropdown
          ><ElDropdownMenu
            ><ElDropdownItem v-for="o in people?.items ?? []" :key="o.id" :command="o.id">{{ o.name }}</ElDropdownItem
            ><ElDropdownItem v-if="item.owner" :command="0" divided>Unassign</ElDropdownItem></ElDropdownMenu
          ></template
        ></ElDropdown
      >
      <ElButton v-if="item.snoozedUntil" size="small" text @click="wake.mutate(undefined)">Show again</ElButton>
      <ElDropdown v-else trigger="click" :persistent="false" @command="(days: number) => snooze.mutate(days)"
        ><ElButton size="small" text :aria-label="`Snooze: ${item.message}`">Snooze</ElButton
        ><template #dropdown
          ><ElDropdownMenu
            ><ElDropdownItem v-for="s in spans" :key="s.days" :command="s.days">{{
              s.name
            }}</ElDropdownItem></ElDropdownMenu
          ></template
        ></ElDropdown
      >
    </div>
  </li>
</template>

<style scoped>
.item {
  display: grid;
  grid-template-columns: auto 6.5rem minmax(0, 1fr) auto;
  gap: 0.2rem 1rem;
  padding: 0.65rem 1rem;
  border-left: 4px solid var(--good);
}
.item.read {
  grid-template-columns: 6.5rem minmax(0, 1fr) auto;
}
.select {
  width: 1.05rem;
  height: 1.05rem;
  margin: 0.2rem 0 0;
  accent-color: var(--sea);
}
.item.review {
  border-left-color: var(--caution);
}
.item.blocked {
  border-left-color: var(--bad);
}
.item p {
  margin: 0;
}
.links {
  margin-top: 0.2rem;
  gap: 0.2rem 1rem;
}
.acts {
  align-content: start;
  justify-content: end;
  max-width: 24rem;
}
.origin {
  width: 9rem;
}
@media (max-width: 46rem) {
  .item {
    grid-template-columns: auto minmax(0, 1fr);
  }
  .item > div {
    grid-column: 1 / -1;
  }
  .acts {
    justify-content: start;
  }
}
</style>
