<script setup lang="ts">
import { ElAlert, ElButton, ElCheckbox, ElInput, ElOption, ElSelect } from 'element-plus'
import { computed, reactive, ref } from 'vue'
import { useRoute } from 'vue-router'
import { api, data as dataOf, type Schemas } from '../api/client'
import { change, me, people } from '../api/queries'
import { asNew, noLimits } from '../composables/limits'
import { handedOver } from '../composables/show'
import PersonLimits from '../components/access/PersonLimits.vue'
import AuditLog from '../components/access/AuditLog.vue'
import PeopleTable from '../components/access/PeopleTable.vue'
import SecondFactors from '../components/access/SecondFactors.vue'
import ServiceSettings from '../components/access/ServiceSettings.vue'
import SessionList from '../components/access/SessionList.vue'
import StudioName from '../components/access/StudioName.vue'
import TokenList from '../components/access/TokenList.vue'
import FeedSettings from '../components/home/FeedSettings.vue'
import PageTabs from '../components/shared/PageTabs.vue'

/** A person's own account, and for admins people, the studio and how the service is set up. */
const { data: person } = me()
const admin = computed(() => person.value?.role === 'admin')
const { data: all } = people(admin)
const tabs = [
  { value: 'account', label: 'Your account' },
  { value: 'people', label: 'People' },
  { value: 'studio', label: 'Studio' },
  { value: 'service', label: 'Service' },
  { value: 'audit', label: 'Audit log' },
] as const
const route = useRoute()
const tab = computed(() => (admin.value && tabs.find((t) => t.value === route.query.tab)?.value) || 'account')
const fresh = reactive<Schemas['NewPerson']>({ name: '', email: '', role: 'viewer' })
const limits = ref(noLimits())
const invite = ref(false)
const oneTime = ref('')

const addPerson = change(
  () => dataOf(api.POST('/people', { body: { ...fresh, ...asNew(limits.value), invite: invite.value } })),
  ['people'],
  (p) => {
    oneTime.value = p.invited ? `${p.person.name} was invited by e-mail to ${p.person.email}` : handedOver(p)
    limits.value = noLimits()
    Object.assign(fresh, { name: '', email: '', role: 'viewer' })
  },
)
</script>

<template>
  <div class="page">
    <div class="head">
      <h1>Settings</h1>
      <span class="soft">{{ person?.email }}, {{ person?.role }}</span>
    </div>
    <PageTabs v-if="admin" :tabs="tabs" :open="tab" />
    <template v-if="person && tab === 'account'">
      <SecondFactors />
      <SessionList :admin="admin" />
      <template v-if="person.role !== 'guest'">
        <TokenList :role="person.role" :own="person.id" />
        <FeedSettings />
      </template>
    </template>
    <StudioName v-else-if="tab === 'studio'" />
    <ServiceSettings v-else-if="tab === 'service'" />
    <AuditLog v-else-if="tab === 'audit'" />
    <template v-else-if="tab === 'people'">
      <PeopleTable :people="all?.items ?? []" :own="person?.id ?? 0" @password="oneTime = $event" />
      <form class="row" @submit.prevent="addPerson.mutate(undefined)">
        <ElInput v-model="fresh.name" class="field" placeholder="Name" aria-label="Name" /><ElInput
          v-model="fresh.email"
          class="field"
          type="email"
          placeholder="E-mail"
          aria-label="E-mail"
        />
        <ElSelect v-model="fresh.role" class="role" aria-label="Role"
          ><ElOption v-for="r in ['guest', 'viewer', 'editor', 'admin']" :key="r" :value="r" :label="r"
        /></ElSelect>
        <PersonLimits v-model="limits" :role="fresh.role" />
        <ElCheckbox v-model="invite">Invite by e-mail</ElCheckbox>
        <ElButton native-type="submit" :disabled="!fresh.name.trim() || !fresh.email.trim()">Add the person</ElButton>
      </form>
      <ElAlert
        v-if="oneTime"
        type="success"
        :title="oneTime"
        :description="oneTime.includes('invited') ? '' : 'Copy it now. It is not shown again.'"
        @close="oneTime = ''"
      />
    </template>
  </div>
</template>

<style scoped>
form {
  margin: 0.7rem 0;
}
.field {
  width: min(18rem, 100%);
}
.role {
  width: 8rem;
}
</style>
