<script setup lang="ts">
import { Moon, QuestionFilled, Search, Sunny } from '@element-plus/icons-vue'
import { useQueryClient } from '@tanstack/vue-query'
import { ElButton, ElIcon, ElOption, ElSelect } from 'element-plus'
import { computed, ref, watch } from 'vue'
import { useRoute } from 'vue-router'
import { api, type Schemas } from '../../api/client'
import { change, clients } from '../../api/queries'
import { useClientStore } from '../../composables/client'
import { useTaste } from '../../composables/taste'

/** The bar at the top: pages, the client that the console is narrowed to, search, and who is signed in. */
const props = defineProps<{ person: Schemas['Person'] }>()
const emit = defineEmits<{ search: []; help: [] }>()
const taste = useTaste()
const route = useRoute()
const queries = useQueryClient()
const switched = useClientStore()
const { data: known } = clients()
const open = ref(false)
watch(
  () => route.path,
  () => (open.value = false),
)
// A client that is no more, or of another studio, narrows nothing.
watch(known, (k) => {
  if (k && switched.id && !k.items.some((c) => c.id === switched.id)) switched.id = undefined
})
const all = [
  { to: '/', name: 'Home' },
  { to: '/clients', name: 'Clients' },
  { to: '/families', name: 'Catalog' },
  { to: '/imports', name: 'Imports' },
  { to: '/sites', name: 'Sites' },
  { to: '/licenses', name: 'Licenses' },
  { to: '/shortlists', name: 'Shortlists' },
  { to: '/builders', name: 'Builders' },
  { to: '/activity', name: 'Activity' },
]
const guest = computed(() => props.person.role === 'guest')
const pages = computed(() => (guest.value ? [{ to: '/guest', name: 'Fonts' }] : all))
const here = (to: string) => (to === '/' ? route.path === '/' : route.path.startsWith(to))
// Whoever came by the sign-on provider leaves by it, too.
const leave = () => (props.person.signedOn ? location.assign('/oidc/out') : signOut.mutate(undefined))
const signOut = change(
  () => api.DELETE('/session'),
  [],
  () => {
    queries.clear()
    location.assign('/')
  },
)
</script>

<template>
  <a class="skip" href="#main">Skip to content</a>
  <header class="bar" :class="{ open }">
    <RouterLink to="/" class="brand"><img src="/mark.svg" alt="" width="26" height="26" />Spare Crate</RouterLink>
    <button type="button" class="menu" :aria-expanded="open" aria-controls="main-menu" @click="open = !open">
      Menu
    </button>
    <nav id="main-menu" aria-label="Pages">
      <RouterLink v-for="p in pages" :key="p.to" :to="p.to" :class="{ here: here(p.to) }">{{ p.name }}</RouterLink>
    </nav>
    <div class="me">
      <ElSelect
        v-if="!guest"
        v-model="switched.id"
        class="switch"
        size="small"
        clearable
        placeholder="All clients"
        aria-label="Show only this client"
        :value-on-clear="() => undefined"
        ><ElOption v-for="c in known?.items ?? []" :key="c.id" :value="c.id" :label="c.name"
      /></ElSelect>
      <ElButton v-if="!guest" text size="small" aria-label="Search" title="Search (/)" @click="emit('search')"
        ><ElIcon><Search /></ElIcon
      ></ElButton>
      <ElButton text size="small" aria-label="Help" title="Help for this page" @click="emit('help')"
        ><ElIcon><QuestionFilled /></ElIcon
      ></ElButton>
      <ElButton
        text
        size="small"
        :aria-pressed="taste.dark"
        :aria-label="taste.dark ? 'Light' : 'Dark'"
        :title="taste.dark ? 'Light color scheme' : 'Dark color scheme'"
        @click="taste.dark = !taste.dark"
        ><ElIcon><Sunny v-if="taste.dark" /><Moon v-else /></ElIcon
      ></ElButton>
      <RouterLink to="/settings" :class="{ here: here('/settings') }">{{ person.name }}</RouterLink>
      <ElButton text size="small" @click="leave">Sign out</ElButton>
    </div>
  </header>
</template>

<style scoped>
.bar {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 0.25rem 1.5rem;
  padding: 0.55rem 1.25rem;
  background: var(--sheet);
  border-bottom: 3px double var(--rule);
}
.brand {
  display: flex;
  align-items: center;
  gap: 0.5rem;
  font-weight: 700;
  color: var(--ink);
  text-decoration: none;
  white-space: nowrap;
}
nav {
  display: flex;
  flex-wrap: wrap;
  gap: 0.15rem 1.1rem;
  flex: 1;
}
nav a {
  color: var(--ink-soft);
  text-decoration: none;
  padding: 0.3rem 0;
  border-bottom: 2px solid transparent;
}
nav a:hover {
  color: var(--ink);
}
nav a.here {
  color: var(--ink);
  border-color: var(--rust);
}
.me {
  display: flex;
  align-items: center;
  gap: 0.2rem;
  white-space: nowrap;
}
.me a {
  color: var(--ink);
}
.me .el-button + .el-button {
  margin-left: 0;
}
.switch {
  width: 11rem;
}
.menu {
  display: none;
  color: var(--ink);
  background: none;
  border: 0;
  padding: 0.3rem;
  cursor: pointer;
}
@media (max-width: 62rem) {
  .bar {
    justify-content: space-between;
  }
  .menu {
    display: block;
  }
  nav,
  .me {
    display: none;
    flex: 1 1 100%;
    flex-wrap: wrap;
  }
  .bar.open nav {
    display: grid;
  }
  .bar.open .me {
    display: flex;
  }
}
.skip {
  position: absolute;
  left: -100rem;
}
.skip:focus {
  left: 1rem;
  top: 0.5rem;
  background: var(--sheet);
  padding: 0.3rem 0.6rem;
  z-index: 10;
}
</style>
