<script setup lang="ts">
import { computed, defineAsyncComponent, ref, watch } from 'vue'
import { me } from './api/queries'
import { ProblemError } from './api/client'
import AppBar from './components/shared/AppBar.vue'
import Trouble from './components/shared/Trouble.vue'
import SignIn from './pages/SignIn.vue'
import OwnPassword from './pages/OwnPassword.vue'
import { useGuestPages } from './composables/guest'
import { usePaletteKeys } from './composables/palette'
import { providePerson } from './composables/person'
import { useTaste } from './composables/taste'

useTaste()
const { data: person, error, isPending } = me()
providePerson(person)
useGuestPages(person)
const CommandPalette = defineAsyncComponent(() => import('./components/shared/CommandPalette.vue'))
const AddFactor = defineAsyncComponent(() => import('./pages/AddFactor.vue'))
const HelpDrawer = defineAsyncComponent(() => import('./components/shared/HelpDrawer.vue'))
// Palette and drawer are loaded when they are first wanted.
const { open: searching, keys, show: search } = usePaletteKeys()
const searched = ref(false)
watch(searching, (now) => (searched.value ||= now))
// Whoever has just set a second factor up still keeps the recovery codes.
const adding = ref(false)
watch(person, (p) => (adding.value ||= !!p?.mustAddFactor))
const helping = ref(false)
const helped = ref(false)
function help() {
  helped.value = true
  helping.value = true
}
const signedOut = computed(() => error.value instanceof ProblemError && error.value.problem.status === 401)
</script>

<template>
  <SignIn v-if="signedOut" />
  <Trouble v-else-if="error" class="page" :error="error" />
  <template v-else-if="person">
    <OwnPassword v-if="person.mustChangePassword" :person="person" />
    <AddFactor v-else-if="adding" :person="person" @done="adding = false" />
    <template v-else>
      <AppBar :person="person" @search="search()" @help="help" />
      <CommandPalette v-if="searched && person.role !== 'guest'" v-model="searching" :keys="keys" />
      <HelpDrawer v-if="helped" v-model="helping" />
      <main id="main"><RouterView /></main>
    </template>
  </template>
  <p v-else-if="isPending" class="page soft">Loading …</p>
</template>
