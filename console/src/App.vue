<script setup lang="ts">
import { computed, defineAsyncComponent, ref } from 'vue'
import { me } from './api/queries'
import { ProblemError } from './api/client'
import AppBar from './components/shared/AppBar.vue'
import Trouble from './components/shared/Trouble.vue'
import SignIn from './pages/SignIn.vue'
import OwnPassword from './pages/OwnPassword.vue'
import { providePerson } from './composables/person'
import { useTaste } from './composables/taste'

useTaste()
const { data: person, error, isPending } = me()
providePerson(person)
const CommandPalette = defineAsyncComponent(() => import('./components/shared/CommandPalette.vue'))
const HelpDrawer = defineAsyncComponent(() => import('./components/shared/HelpDrawer.vue'))
const searching = ref(false)
const helping = ref(false)
const helped = ref(false) // the drawer is loaded when it is first wanted
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
    <template v-else>
      <AppBar :person="person" @search="searching = true" @help="help" />
      <CommandPalette v-model="searching" />
      <HelpDrawer v-if="helped" v-model="helping" />
      <main id="main"><RouterView /></main>
    </template>
  </template>
  <p v-else-if="isPending" class="page soft">Loading …</p>
</template>
