<script setup lang="ts">
import { ElButton, ElInput } from 'element-plus'
import { computed, ref } from 'vue'
import { useRouter } from 'vue-router'
import { api, data as dataOf } from '../api/client'
import { change, clients, due, register } from '../api/queries'
import DataTable from '../components/shared/DataTable.vue'
import Trouble from '../components/shared/Trouble.vue'
import { usePerson } from '../composables/person'
import { some, verdicts } from '../composables/show'
import type { Column } from '../composables/table'

/** The studio and its clients, each with what it has and what needs attention. */
const router = useRouter()
const person = usePerson()
const mayEdit = computed(() => person.value?.role !== 'viewer')
const { data: known, error, isPending } = clients()
const { data: rows } = register(ref())
const { data: needs } = due(ref(90), ref())
const lines = computed(() =>
  (known.value?.items ?? []).map((c) => {
    const families = (rows.value?.items ?? []).filter((r) => r.client.id === c.id)
    const of = (state: string) => families.filter((f) => f.verdict === state).length
    return {
      ...c,
      families: families.length,
      sites: new Set(families.flatMap((f) => f.sites)).size,
      states: (['blocked', 'review', 'cleared'] as const)
        .map((s) => ({ state: s, count: of(s) }))
        .filter((s) => s.count),
      attention: (needs.value?.items ?? []).filter((i) => i.client?.id === c.id).length,
    }
  }),
)
type Line = (typeof lines.value)[number]
const columns: Column<Line>[] = [
  { key: 'name', label: 'Client', text: (c) => c.name, always: true },
  { key: 'families', label: 'Families', text: (c) => String(c.families), by: (c) => c.families, number: true },
  { key: 'sites', label: 'Sites', text: (c) => String(c.sites), by: (c) => c.sites, number: true },
  {
    key: 'verdicts',
    label: 'Verdicts',
    text: (c) => c.states.map((s) => `${s.count} ${verdicts[s.state]!.toLowerCase()}`).join(', '),
    by: (c) => c.states.find((s) => s.state === 'blocked')?.count ?? 0,
  },
  {
    key: 'attention',
    label: 'Needs attention',
    text: (c) => String(c.attention || ''),
    by: (c) => c.attention,
    number: true,
  },
]
const name = ref('')
const add = change(
  () => dataOf(api.POST('/clients', { body: { name: name.value.trim() } })),
  ['clients'],
  (c) => {
    name.value = ''
    void router.push(`/clients/${c.id}`)
  },
)
</script>

<template>
  <div class="page">
    <div class="head"><h1>Clients</h1></div>
    <Trouble v-if="error" :error="error" />
    <p v-else-if="isPending" class="soft">Loading …</p>
    <DataTable
      v-if="lines.length"
      :id="(c) => c.id"
      name="clients"
      label="Clients"
      :rows="lines"
      :columns="columns"
      row-class="client"
    >
      <template #name="{ row: c }">
        <RouterLink class="name" :to="`/clients/${c.id}`">{{ c.name }}</RouterLink>
        <span v-if="c.studio" class="soft small"> the studio</span>
        <span v-if="c.closedAt" class="soft small"> closed</span>
      </template>
      <template #verdicts="{ row: c }">
        <span v-for="s in c.states" :key="s.state" class="small state" :class="s.state"
          >{{ s.count }} {{ verdicts[s.state]!.toLowerCase() }}</span
        >
      </template>
    </DataTable>
    <form v-if="mayEdit" class="row add" @submit.prevent="add.mutate(undefined)">
      <ElInput
        v-model="name"
        class="field"
        placeholder="Name of a client"
        aria-label="Name of a client"
        maxlength="200"
      />
      <ElButton native-type="submit" :disabled="!name.trim()" :loading="add.isPending.value">Add client</ElButton>
    </form>
    <p class="soft small">{{ some(lines.length, 'client') }}</p>
  </div>
</template>

<style scoped>
.name {
  font-weight: 650;
}
.state {
  margin-right: 0.9rem;
  white-space: nowrap;
}
.cleared {
  color: var(--good);
}
.review {
  color: var(--caution);
}
.blocked {
  color: var(--bad);
}
.add {
  margin: 1rem 0;
}
.field {
  width: min(18rem, 100%);
}
</style>
