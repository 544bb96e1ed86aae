<script setup lang="ts">
import { ElButton } from 'element-plus'
import { computed, ref } from 'vue'
import { useRouter } from 'vue-router'
import { me, sites } from '../api/queries'
import { useClient } from '../composables/client'
import ClientPack from '../components/site/ClientPack.vue'
import SiteForm from '../components/site/SiteForm.vue'
import Trouble from '../components/shared/Trouble.vue'
import VerdictTag from '../components/shared/VerdictTag.vue'

const router = useRouter()
const { data, error, isPending, hasNextPage, fetchNextPage } = sites(useClient().id)
const { data: person } = me()
/** Sites by name, each with its outlets behind it. */
const all = computed(() => {
  const items = data.value?.pages.flatMap((p) => p.items) ?? []
  const of = (id: number) => items.filter((s) => s.outletOf?.id === id)
  const alone = items.filter((s) => s.outletOf && !items.some((o) => o.id === s.outletOf!.id))
  return items.filter((s) => !s.outletOf || alone.includes(s)).flatMap((s) => [s, ...of(s.id)])
})
const adding = ref(false)
const packing = ref(false)
</script>

<template>
  <div class="page">
    <div class="head">
      <h1>Sites</h1>
      <span class="row">
        <ElButton @click="packing = true">Fonts for a computer</ElButton>
        <ElButton v-if="person?.role !== 'viewer'" type="primary" @click="adding = true">Add a site</ElButton>
      </span>
    </div>
    <Trouble v-if="error" :error="error" />
    <p v-else-if="isPending" class="soft">Loading …</p>
    <p v-else-if="!all.length" class="soft">No sites yet. A site is a web site, an app or a prototype of a client.</p>
    <ul class="list">
      <li v-for="s in all" :key="s.id" class="site" :class="{ outlet: s.outletOf }">
        <div>
          <RouterLink class="name" :to="`/sites/${s.id}`">{{ s.name }}</RouterLink>
          <div class="soft small">
            <template v-if="!s.outletOf">{{ s.client.name }}; </template>{{ s.builder.name }}
          </div>
          <div v-if="!s.outletOf" class="soft small">{{ s.domains.join(', ') }}</div>
        </div>
        <ul class="used">
          <li v-for="f in s.families" :key="f.family.id" class="row">
            <VerdictTag :state="f.verdict" :signed="!!f.signOff" />{{ f.family.name }}
          </li>
          <li v-if="!s.families.length" class="soft">No families yet</li>
        </ul>
      </li>
    </ul>
    <ElButton v-if="hasNextPage" @click="fetchNextPage()">More sites</ElButton>
    <ClientPack v-model="packing" :may-build="person?.role !== 'viewer'" />
    <SiteForm v-model="adding" @saved="(s) => router.push(`/sites/${s.id}`)" />
  </div>
</template>

<style scoped>
.site {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 0.5rem 1.5rem;
  padding: 0.9rem 0;
}
.outlet > div {
  padding-left: 1.2rem;
}
.name {
  font-weight: 650;
}
.used {
  list-style: none;
  padding: 0;
  margin: 0;
  display: grid;
  gap: 0.3rem;
  align-content: start;
}
@media (max-width: 46rem) {
  .site {
    grid-template-columns: 1fr;
  }
}
</style>
