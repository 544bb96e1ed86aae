<script setup lang="ts">
import { ElOption, ElRadioButton, ElRadioGroup, ElSelect } from 'element-plus'
import { computed, ref } from 'vue'
import type { Schemas } from '../api/client'
import { clients, due } from '../api/queries'
import DueElsewhere from '../components/due/DueElsewhere.vue'
import Trouble from '../components/shared/Trouble.vue'
import { away } from '../state/show'

const within = ref(90)
const client = ref<number>()
const kind = ref('')
const { data: list, error, isPending } = due(within, client)
const { data: known } = clients()
const kinds: Record<Schemas['DueKind'], string> = {
  blocked: 'blocked on a site',
  unlicensed: 'in use without a license',
  review: 'needs review',
  'license-ended': 'ended, still in use',
  'license-ends': 'ending',
  'over-limit': 'over a limit',
  'near-limit': 'near a limit',
  'unknown-origin': 'of unknown origin',
  'sign-off-ends': 'with a sign-off that ends',
  'retired-in-use': 'retired and in use',
  'pack-outdated': 'with a pack out of date',
  'new-findings': 'with findings on their pages',
}
const groups = computed(() => {
  const items = (list.value?.items ?? []).filter((i) => !kind.value || i.kind === kind.value)
  return [
    { state: 'blocked', title: 'Blocked', items: items.filter((i) => i.state === 'blocked') },
    { state: 'review', title: 'To be settled', items: items.filter((i) => i.state === 'review') },
    { state: 'cleared', title: 'To keep in mind', items: items.filter((i) => i.state === 'cleared') },
  ].filter((g) => g.items.length)
})
</script>

<template>
  <div class="page">
    <div class="head">
      <h1>Due</h1>
      <div class="row">
        <ElSelect v-model="client" clearable placeholder="All clients" aria-label="Client" class="client"
          ><ElOption v-for="c in known?.items ?? []" :key="c.id" :value="c.id" :label="c.name"
        /></ElSelect>
        <ElRadioGroup v-model="within" aria-label="Days ahead"
          ><ElRadioButton v-for="d in [30, 60, 90]" :key="d" :value="d">{{ d }} days</ElRadioButton></ElRadioGroup
        >
      </div>
    </div>
    <Trouble v-if="error" :error="error" />
    <p v-else-if="isPending" class="soft">Loading …</p>
    <template v-else-if="list">
      <div v-if="list.counts.length" class="row counts">
        <button
          v-for="c in list.counts"
          :key="c.kind"
          type="button"
          class="count"
          :aria-pressed="kind === c.kind"
          @click="kind = kind === c.kind ? '' : c.kind"
        >
          <strong>{{ c.count }}</strong> {{ kinds[c.kind] }}
        </button>
      </div>
      <section v-for="g in groups" :key="g.state" :class="['group', g.state]">
        <h2>{{ g.title }}</h2>
        <ul class="list">
          <li v-for="(i, n) in g.items" :key="`${i.kind} ${n}`" class="item">
            <span class="when"
              ><template v-if="i.days !== undefined"
                ><strong>{{ away(i.days) }}</strong
                ><span class="soft small">{{ i.day }}</span></template
              ><span v-else class="soft small">now</span></span
            >
            <div>
              <p>{{ i.message }}</p>
              <p class="row small links">
                <span v-if="i.client" class="soft">{{ i.client.name }}</span>
                <RouterLink v-for="s in i.sites" :key="`s${s.id}`" :to="`/sites/${s.id}`">{{ s.name }}</RouterLink>
                <RouterLink v-for="f in i.families" :key="`f${f.id}`" :to="`/families/${f.id}`">{{
                  f.name
                }}</RouterLink>
                <RouterLink v-if="i.license" :to="{ path: '/licenses', query: { show: i.license.id } }"
                  >License {{ i.license.id }}</RouterLink
                >
              </p>
            </div>
          </li>
        </ul>
      </section>
      <p v-if="!list.items.length" class="sheet">Nothing needs attention in the next {{ list.within }} days.</p>
      <p v-else-if="!groups.length" class="soft">Nothing of this kind.</p>
      <DueElsewhere />
    </template>
  </div>
</template>

<style scoped>
.client {
  width: 14rem;
}
.counts {
  margin-bottom: 0.4rem;
}
.count {
  font: inherit;
  font-size: 0.9rem;
  color: var(--ink);
  background: var(--sheet);
  border: 1px solid var(--rule);
  padding: 0.25rem 0.7rem;
  cursor: pointer;
}
.count[aria-pressed='true'] {
  border-color: var(--rust);
  box-shadow: inset 0 -2px 0 var(--rust);
}
.group h2 {
  margin-top: 1.4rem;
}
.group .list {
  background: var(--sheet);
  border: 1px solid var(--rule);
  border-left-width: 4px;
}
.blocked .list {
  border-left-color: var(--bad);
}
.review .list {
  border-left-color: var(--caution);
}
.cleared .list {
  border-left-color: var(--good);
}
.item {
  display: grid;
  grid-template-columns: 8rem minmax(0, 1fr);
  gap: 0.2rem 1rem;
  padding: 0.75rem 1rem;
}
.item p {
  margin: 0;
}
.when {
  display: grid;
  align-content: start;
}
.links {
  margin-top: 0.25rem;
  gap: 0.2rem 1rem;
}
@media (max-width: 40rem) {
  .item {
    grid-template-columns: minmax(0, 1fr);
  }
}
</style>
