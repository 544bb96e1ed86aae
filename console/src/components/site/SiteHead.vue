<script setup lang="ts">
import { ElButton } from 'element-plus'
import { computed, ref } from 'vue'
import { SiteForm } from '../forms'
import type { Schemas } from '../../api/client'
import { me } from '../../api/queries'
import SheetUrls from './SheetUrls.vue'
import SiteOutlets from './SiteOutlets.vue'
import TimeAgo from '../shared/TimeAgo.vue'

/** The head of a site's pages: what it is, the ways between them, and packs that it has left behind. */
defineProps<{ site: Schemas['Site'] }>()
const { data: person } = me()
const mayEdit = computed(() => person.value?.role !== 'viewer')
const editing = ref(false)
</script>

<template>
  <div class="head">
    <div>
      <p class="soft small crumb"><RouterLink to="/sites">Sites</RouterLink> / {{ site.client.name }}</p>
      <h1>{{ site.name }}</h1>
      <div class="soft">
        <RouterLink :to="`/builders/${site.builder.kind}`">{{ site.builder.name }}</RouterLink><template
          v-if="site.domains.length"
          >; {{ site.domains.join(', ') }}</template
        ><template v-if="site.environments.length">; {{ site.environments.map((e) => e.name).join(', ') }}</template>
      </div>
    </div>
    <ElButton v-if="mayEdit" @click="editing = true">Edit {{ site.outletOf ? 'outlet' : 'site' }}</ElButton>
  </div>
  <SiteOutlets :site="site" :may-edit="mayEdit" />
  <SheetUrls :site="site" />
  <nav class="ways" aria-label="Of this site">
    <RouterLink :to="`/sites/${site.id}`">Overview</RouterLink>
    <template v-if="!site.outletOf">
      <RouterLink :to="`/sites/${site.id}/roles`">Fonts and roles</RouterLink>
      <RouterLink :to="`/sites/${site.id}/guide`">Style guide</RouterLink>
    </template>
    <RouterLink :to="`/sites/${site.id}/pack`">Pack</RouterLink>
    <RouterLink :to="`/sites/${site.id}/inspections`">Inspection</RouterLink>
  </nav>
  <section v-for="o in site.outdated" :key="o.pack" class="behind small" role="status">
    <strong
      >The pack{{ o.environment ? ` for ${o.environment}` : '' }}, built <TimeAgo :at="o.builtAt" />, is out of
      date.</strong
    >
    <ul>
      <li v-for="line in o.changes" :key="line">{{ line }}</li>
    </ul>
  </section>
  <SiteForm v-model="editing" :site="site" />
</template>

<style scoped>
.crumb {
  margin: 0 0 0.2rem;
}
.ways {
  display: flex;
  flex-wrap: wrap;
  gap: 0.2rem 1.4rem;
  border-bottom: 1px solid var(--rule);
  margin-bottom: 1.2rem;
}
.ways a {
  color: var(--ink-soft);
  text-decoration: none;
  padding: 0.35rem 0;
  border-bottom: 3px solid transparent;
  margin-bottom: -1px;
}
.ways a.router-link-exact-active {
  color: var(--ink);
  border-color: var(--sea);
  font-weight: 600;
}
.behind {
  border: 1.5px dashed var(--caution);
  padding: 0.6rem 0.9rem;
  margin-bottom: 0.9rem;
  background: var(--sheet);
}
.behind ul {
  margin: 0.3rem 0 0;
  padding-left: 1.1rem;
}
</style>
