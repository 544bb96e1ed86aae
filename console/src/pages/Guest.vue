<script setup lang="ts">
import { computed, ref } from 'vue'
import { base } from '../api/client'
import { guestSites, shortlists } from '../api/queries'
import Trouble from '../components/shared/Trouble.vue'
import TimeAgo from '../components/shared/TimeAgo.vue'
import { usePerson } from '../composables/person'
import { bytes } from '../composables/show'
import { useTaste } from '../composables/taste'

/** What one of a client's own people sees: the client's style guides, packs and shortlists. */
const person = usePerson()
const taste = useTaste()
const { data: lists, error: noLists } = shortlists(ref(''))
const { data: sites, error: noSites } = guestSites()
const client = computed(() => person.value?.clients[0]?.name ?? '')
const sample = (file: number, text: string) =>
  `${base}/files/${file}/specimen?${new URLSearchParams({ text, size: '34', dark: String(taste.dark) })}`
</script>

<template>
  <div class="page">
    <div class="head">
      <h1>Fonts of {{ client }}</h1>
      <span v-if="person?.endsOn" class="soft">Your account ends with {{ person.endsOn }}.</span>
    </div>
    <Trouble v-if="noSites || noLists" :error="(noSites || noLists)!" />
    <section v-if="sites">
      <h2>Sites</h2>
      <p v-if="!sites.length" class="soft">No sites yet.</p>
      <article v-for="{ site, packs } in sites" :key="site.id" class="card site">
        <h3>{{ site.name }}</h3>
        <p v-if="site.domains.length" class="soft small">{{ site.domains.join(', ') }}</p>
        <p>{{ site.families.map((f) => f.family.name).join(', ') || 'No fonts yet.' }}</p>
        <p v-if="site.roles.length">
          <RouterLink :to="`/sites/${site.id}/guide`" :aria-label="`Style guide of ${site.name}`"
            >Style guide</RouterLink
          >
        </p>
        <ul v-if="packs.length" class="plain">
          <li v-for="p in packs" :key="p.id">
            <a :href="`${base}/packs/${p.id}/content`">{{ p.name }}</a>
            <span class="soft small"
              >{{ p.environment ? `${p.environment}, ` : '' }}{{ bytes(p.bytes) }}, built <TimeAgo :at="p.createdAt"
            /></span>
          </li>
        </ul>
      </article>
    </section>
    <section v-if="lists">
      <h2>Shortlists</h2>
      <p v-if="!lists.length" class="soft">No shortlists yet.</p>
      <article v-for="l in lists" :key="l.id" class="card">
        <h3>{{ l.name }}</h3>
        <p v-if="l.note">{{ l.note }}</p>
        <div v-for="f in l.families" :key="f.id" class="choice">
          <strong>{{ f.name }}</strong> <span v-if="f.foundry" class="soft small">{{ f.foundry }}</span>
          <img v-if="f.faces[0]" :src="sample(f.faces[0].fileId, f.sample || f.name)" :alt="`${f.name} in use`" />
        </div>
      </article>
    </section>
  </div>
</template>

<style scoped>
.card {
  border: 1px solid var(--rule);
  border-radius: 6px;
  padding: 0.4rem 1rem 0.7rem;
  margin: 0.8rem 0;
}
.plain {
  list-style: none;
  padding: 0;
}
.plain li {
  padding: 0.25rem 0;
}
.choice {
  padding: 0.3rem 0;
}
.choice img {
  display: block;
  max-width: 100%;
}
</style>
