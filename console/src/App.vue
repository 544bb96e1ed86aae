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
const searching = ref(false)
const signedOut = computed(() => error.value instanceof ProblemError && error.value.problem.status === 401)
</script>

<template>
  <SignIn v-if="signedOut" />
  <Trouble v-else-if="error" class="page" :error="error" />
  <template v-else-if="person">
    <OwnPassword v-if="person.mustChangePassword" :person="person" />
    <template v-else>
      <AppBar :person="person" @search="searching = true" />
      <CommandPalette v-model="searching" />
      <main id="main"><RouterView /></main>
    </template>
  </template>
  <p v-else-if="isPending" class="page soft">Loading …</p>
</template>
