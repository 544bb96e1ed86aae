<script setup lang="ts">
import { ElButton, ElInput } from 'element-plus'
import { computed, ref } from 'vue'
import { useRoute } from 'vue-router'
import { LicenseForm } from '../components/forms'
import { base } from '../api/client'
import { documents, licenses, me } from '../api/queries'
import { useClient } from '../composables/client'
import LicenseLine from '../components/licenses/LicenseLine.vue'
import SignOffList from '../components/licenses/SignOffList.vue'
import { openedByURL } from '../composables/opened'
import Trouble from '../components/shared/Trouble.vue'
import { bytes } from '../composables/show'

const route = useRoute()
const { data, error, isPending, hasNextPage, fetchNextPage } = licenses(useClient().id)
const { data: person } = me()
const mayEdit = computed(() => person.value?.role !== 'viewer')
const all = computed(() => data.value?.pages.flatMap((p) => p.items) ?? [])
const shown = computed(() => Number(route.query.show) || 0)
const recording = ref(false)
openedByURL(recording)
const typed = ref('')
const words = ref('')
let settling = 0
function settle(text: string) {
  typed.value = text
  clearTimeout(settling)
  settling = window.setTimeout(() => (words.value = text.trim()), 250)
}
const { data: hits } = documents(words)
</script>

<template>
  <div class="page">
    <div class="head">
      <h1>License register</h1>
      <div class="row">
        <RouterLink to="/register">Register</RouterLink
        ><ElButton v-if="mayEdit" type="primary" @click="recording = true">Record a license</ElButton>
      </div>
    </div>
    <ElInput
      :model-value="typed"
      class="find"
      clearable
      placeholder="Search documents: a clause, an order number"
      aria-label="Search documents"
      @update:model-value="settle"
    />
    <section v-if="words" class="sheet hits" aria-live="polite">
      <p v-if="hits && !hits.length" class="soft">No documents found.</p>
      <ul v-else class="list">
        <li v-for="d in hits ?? []" :key="`${d.license ?? 0} ${d.id}`" class="hit">
          <a
            :href="`${base}/${d.license ? 'documents' : 'family-documents'}/${d.id}/content?inline=true`"
            target="_blank"
            >{{ d.name }}</a
          >
          <span class="soft small">{{ bytes(d.bytes) }}</span>
          <RouterLink v-if="d.license" class="small" :to="{ path: '/licenses', query: { show: d.license } }"
            >License {{ d.license }}</RouterLink
          ><RouterLink v-else-if="d.family" class="small" :to="`/families/${d.family}`">family document</RouterLink>
          <div v-if="d.quote" class="small soft">{{ d.quote }}</div>
        </li>
      </ul>
    </section>
    <Trouble v-if="error" :error="error" />
    <p v-else-if="isPending" class="soft">Loading …</p>
    <p v-else-if="!all.length" class="soft">
      No licenses yet. A license records who may use which families for what, with its documents.
    </p>
    <ul class="list">
      <li v-for="l in all" :key="l.id" :class="{ shown: l.id === shown }">
        <LicenseLine :license="l" :may-edit="mayEdit" with-families :open="l.id === shown" />
      </li>
    </ul>
    <ElButton v-if="hasNextPage" @click="fetchNextPage()">Older licenses</ElButton>
    <SignOffList :role="person?.role" />
    <LicenseForm v-model="recording" />
  </div>
</template>

<style scoped>
.find {
  margin-bottom: 0.6rem;
}
.hits {
  margin-bottom: 0.8rem;
}
.hit {
  padding: 0.4rem 0;
}
.shown {
  background: var(--sheet);
  box-shadow:
    -0.8rem 0 0 var(--sheet),
    -1rem 0 0 var(--rust);
}
</style>
